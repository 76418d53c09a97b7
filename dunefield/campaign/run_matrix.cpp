#include <dunefield/campaign/run_matrix.hpp>

#include <algorithm>
#include <cstdlib>
#include <set>

#include <fmt/ranges.h>

namespace dunefield {
namespace {

constexpr std::size_t most_settings = 100'000;  // a slip of the keys beyond that

bool starts_with_a_number(const std::string& text) {
  char* end = nullptr;
  std::strtod(text.c_str(), &end);
  return end != text.c_str();
}

/// Every combination of what is there with the values of one more key.
void multiply(std::vector<Settings>& all, Table& t, const std::string& key, const char* shown,
              const toml::array& values) {
  if (values.empty()) t.fail(shown, "is empty", "list values, or leave the key out");
  if (all.size() * values.size() > most_settings)
    t.fail(shown, "makes more than 100 000 combinations", "list fewer values");
  std::set<std::string> seen;
  for (const toml::node& v : values)
    if (const std::string value = value_of(t, v, shown); !seen.insert(value).second)
      t.fail(shown, "lists " + value + " twice", "list it once");
  std::vector<Settings> more;
  for (const Settings& s : all)
    for (const toml::node& v : values) {
      Settings with = s;
      with.push_back({key, value_of(t, v, shown)});
      more.push_back(std::move(with));
    }
  all = std::move(more);
}

Settings read_combination(Table& t) {
  Settings s;
  t.for_each_key([&](const std::string& key, const toml::node& node) {
    check_setting_key(t, key);
    s.push_back({key, value_of(t, node, key.c_str())});
  });
  return s;
}

/// @return whether the key has its place below this node
bool assign(toml::node& node, std::string_view rest, const std::string& value) {
  const auto below = [&](std::string_view name) {
    return rest.starts_with(name) && rest.size() > name.size() && rest[name.size()] == '.';
  };
  if (toml::array* list = node.as_array()) {
    int number = 0;
    for (toml::node& entry : *list) {
      toml::table* t = entry.as_table();
      if (!t) return false;
      const std::string counted = std::to_string(++number);
      const auto name = (*t)["name"].value<std::string>();
      for (const std::string& called : {name.value_or(counted), counted})
        if (below(called) && assign(*t, rest.substr(called.size() + 1), value)) return true;
    }
    return false;
  }
  toml::table* t = node.as_table();
  if (!t) return false;
  for (auto&& [key, child] : *t)
    if (below(key.str()) && assign(child, rest.substr(key.str().size() + 1), value)) return true;
  const std::size_t dot = rest.find('.');
  if (dot == std::string_view::npos) {
    char* end = nullptr;
    const double number = std::strtod(value.c_str(), &end);
    if (*end)
      t->insert_or_assign(rest, value);
    else
      t->insert_or_assign(rest, number);
    return true;
  }
  const std::string_view head = rest.substr(0, dot);
  if (t->contains(head)) return false;
  t->insert(head, toml::table{});
  return assign(*t->get(head), rest.substr(dot + 1), value);
}

}  // namespace

std::string value_of(Table& t, const toml::node& node, const char* key) {
  if (const auto* text = node.as_string()) {
    if (!starts_with_a_number(text->get()))
      t.fail(key, "has '" + text->get() + "', which is no number",
             "write numbers with their units");
    return text->get();
  }
  const auto number = node.value<double>();
  if (!number || node.is_boolean() || !std::isfinite(*number))
    t.fail(key, "has an entry that is no number", "write numbers, with units in quotes");
  return fmt::format("{:.12g}", *number);
}

void check_setting_key(Table& t, const std::string& key) {
  static const char* const known[] = {"vehicle", "ride",  "tunnel",    "mesh",
                                      "flow",    "air",   "wheel",     "roughness",
                                      "variant", "shape", "reference", "section"};
  const std::string head = key.substr(0, key.find('.'));
  const bool fits =
      key == yaw_key || (head != key && std::count(std::begin(known), std::end(known), head));
  if (!fits)
    t.fail(key.c_str(), "is no key that runs can differ in",
           fmt::format("write one below {}, or \"runs.yaw\"", fmt::join(known, ", ")));
}

std::pair<double, std::string> number_and_unit(const std::string& text) {
  char* end = nullptr;
  const double number = std::strtod(text.c_str(), &end);
  std::string unit = end;
  unit.erase(0, unit.find_first_not_of(' '));
  return {number, unit};
}

std::vector<Settings> read_settings(Table& runs) {
  std::vector<Settings> all(1);
  if (const toml::array* yaw = runs.list("yaw")) multiply(all, runs, yaw_key, "yaw", *yaw);
  Table sweep = runs.table("sweep");
  sweep.for_each_key([&](const std::string& key, const toml::node& node) {
    check_setting_key(sweep, key);
    const toml::array* values = node.as_array();
    if (!values) sweep.fail(key.c_str(), "is not a list", "write \"" + key + "\" = [ ... ]");
    multiply(all, sweep, key, key.c_str(), *values);
  });
  std::vector<Settings> listed;
  for (Table& t : runs.tables("combination")) {
    listed.push_back(read_combination(t));
    if (std::count(listed.begin(), listed.end(), listed.back()) > 1)
      runs.fail("combination", "lists the same twice", "list it once");
  }
  if (listed.empty()) return all;
  if (all.size() > 1 || !all.front().empty())
    runs.fail("combination", "and lists of values are both there",
              "use [[runs.combination]] alone, with all keys in each");
  return listed;
}

void set_key(toml::table& root, const Setting& s, const std::string& file) {
  if (!assign(root, s.key, s.value))
    throw InputError("there is no '" + s.key + "' to set to " + s.value, file,
                     "name tables of a list by their name or number, like "
                     "\"variant.NAME.change.1.turn\"");
}

bool changes_the_vehicle(const Settings& settings) {
  return std::any_of(settings.begin(), settings.end(), [](const Setting& s) {
    const std::string head = s.key.substr(0, s.key.find('.'));
    return head == "vehicle" || head == "ride" || head == "variant" || head == "shape" ||
           head == "wheel" || head == "section";
  });
}

}  // namespace dunefield
