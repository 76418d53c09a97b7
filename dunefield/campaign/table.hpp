// One table of a campaign file: typed values with units, and an error with its line for everything
// else.
#pragma once

#include <algorithm>
#include <filesystem>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <toml++/toml.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/base/valid_text.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

/// One table of the file. Remembers which keys were asked for, so that the others can be refused.
class Table {
 public:
  Table(const toml::table* table, std::string name, const std::filesystem::path& file)
      : table_(table), name_(std::move(name)), file_(file) {}

  bool has(const char* key) const { return table_ && table_->contains(key); }
  Table table(const char* key) {
    return Table(typed<toml::table>(key, "a table"), full(key), file_);
  }
  std::vector<Table> tables(const char* key) {
    std::vector<Table> out;
    if (const auto* list = typed<toml::array>(key, "a list of tables"))
      for (const auto& node : *list) {
        const auto* t = node.as_table();
        if (!t) fail(key, "is not a list of tables", "write [[" + full(key) + "]]");
        out.emplace_back(t, full(key), file_);
      }
    return out;
  }
  std::string text(const char* key, const std::string& otherwise) {
    const auto* v = typed<toml::value<std::string>>(key, "text in quotes");
    if (v && valid_text(v->get()) != v->get())
      fail(key, "has control characters", "write plain text");
    return v ? v->get() : otherwise;
  }
  std::string choice(const char* key, const std::string& otherwise,
                     const std::vector<std::string>& known) {
    const std::string v = text(key, otherwise);
    std::string list;
    for (const auto& k : known) {
      if (k == v) return v;
      list += (list.empty() ? "" : ", ") + k;
    }
    fail(key, "'" + v + "' is not known", "use one of " + list);
  }
  /// A name that tells it apart from those of the same kind, which are `seen`.
  std::string new_name(std::set<std::string>& seen) {
    const std::string name = text("name", "");
    if (name.empty()) fail("name", "is missing", "give each one a name");
    if (!seen.insert(name).second)
      fail("name", "'" + name + "' stands twice", "give each one its own name");
    return name;
  }
  bool flag(const char* key, bool otherwise) {
    const auto* v = typed<toml::value<bool>>(key, "true or false");
    return v ? v->get() : otherwise;
  }
  double number(const char* key, double otherwise, double least) {
    const toml::node* node = find(key);
    if (!node) return otherwise;
    const auto v = node->value<double>();
    if (!v || node->is_string() || node->is_boolean())
      fail(key, "is not a number", "write a plain number");
    if (!std::isfinite(*v) || *v < least)
      fail(key, fmt::format("is {}, but must be at least {}", *v, least), "check it");
    return *v;
  }
  /// A quantity with a unit, above zero.
  std::optional<double> quantity(const char* key, Dimension dimension) {
    const auto* v = typed<toml::value<std::string>>(
        key, "a number and a unit in quotes, like \"1.2 " + first_unit(dimension) + "\"");
    if (!v) return std::nullopt;
    return positive(key, parse_quantity(v->get(), dimension, where(key)), v->get());
  }
  std::vector<double> quantities(const char* key, Dimension dimension) {
    std::vector<double> out;
    for (const std::string& t : texts(key, "write [\"1.2 " + first_unit(dimension) + "\", ...]"))
      out.push_back(positive(key, parse_quantity(t, dimension, where(key)), t));
    return out;
  }
  std::vector<std::string> texts(const char* key,
                                 const std::string& advice = "write [\"...\", \"...\"]") {
    std::vector<std::string> out;
    if (const auto* list = typed<toml::array>(key, "a list of texts"))
      for (const auto& node : *list) {
        if (!node.is_string()) fail(key, "has an entry that is not text in quotes", advice);
        out.push_back(node.as_string()->get());
      }
    return out;
  }
  /// Angle in radians, of either sign; lengths likewise.
  double signed_quantity(const char* key, Dimension dimension, double otherwise) {
    const auto* v = typed<toml::value<std::string>>(
        key, "a number and a unit in quotes, like \"1.2 " + first_unit(dimension) + "\"");
    return v ? parse_quantity(v->get(), dimension, where(key)) : otherwise;
  }
  /// A quantity above zero that must be there.
  double needed(const char* key, Dimension dimension) {
    const auto v = quantity(key, dimension);
    if (!v)
      fail(key, "is missing",
           "write " + std::string(key) + " = \"... " + first_unit(dimension) + "\"");
    return *v;
  }
  /// A list of plain numbers.
  std::vector<double> numbers(const char* key) {
    std::vector<double> out;
    if (const auto* list = typed<toml::array>(key, "a list of numbers"))
      for (const auto& node : *list) {
        const auto v = node.value<double>();
        if (!v || node.is_string() || node.is_boolean() || !std::isfinite(*v))
          fail(key, "has an entry that is not a number", "write [1.0, 2.0]");
        out.push_back(*v);
      }
    return out;
  }
  /// A direction as three plain numbers.
  Vec3 direction(const char* key, const Vec3& otherwise) {
    if (!has(key)) return otherwise;
    const auto v = numbers(key);
    if (v.size() != 3 || !(norm(Vec3{v[0], v[1], v[2]}) > 0))
      fail(key, "is not a direction", "write [0, 1, 0]");
    return {v[0], v[1], v[2]};
  }
  /// A list of places, each three lengths.
  std::vector<Vec3> places(const char* key) {
    std::vector<Vec3> out;
    if (const auto* list = typed<toml::array>(key, "a list of places"))
      for (const auto& node : *list) {
        const auto* entry = node.as_array();
        if (!entry || entry->size() != 3)
          fail(key, "has an entry that is not three lengths",
               "write [[\"1 m\", \"0 m\", \"0.5 m\"], ...]");
        Vec3 v;
        for (int i = 0; i < 3; ++i) {
          const auto* t = entry->get(static_cast<std::size_t>(i))->as_string();
          if (!t)
            fail(key, "has an entry that is not a length in quotes",
                 "write [[\"1 m\", \"0 m\", \"0.5 m\"], ...]");
          v[i] = parse_quantity(t->get(), Dimension::length, where(key));
        }
        out.push_back(v);
      }
    return out;
  }
  Vec3 place(const char* key) {
    const std::string advice = "write [\"1 m\", \"0 m\", \"0.5 m\"]";
    const auto t = texts(key, advice);
    if (t.size() != 3) fail(key, "must be three lengths", advice);
    Vec3 v;
    for (int i = 0; i < 3; ++i) v[i] = parse_quantity(t[at(i)], Dimension::length, where(key));
    return v;
  }
  std::map<std::string, double> quantities_by_name(Dimension dimension) {
    std::map<std::string, double> out;
    if (table_)
      for (const auto& [key, node] : *table_)
        out[std::string(key.str())] = *quantity(std::string(key.str()).c_str(), dimension);
    return out;
  }
  /// Any list; none when the key holds something else.
  const toml::array* list(const char* key) {
    const toml::node* node = find(key);
    return node ? node->as_array() : nullptr;
  }
  /// Calls with each key and node, in the order of the file; keys have no names known beforehand.
  template <class Work>
  void for_each_key(const Work& work) {
    if (!table_) return;
    std::vector<std::pair<std::string, const toml::node*>> all;
    for (const auto& [key, node] : *table_) all.emplace_back(std::string(key.str()), &node);
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) {
      return a.second->source().begin < b.second->source().begin;
    });
    for (const auto& [key, node] : all) asked_.insert(key), work(key, *node);
  }
  /// File and line of the table, for messages.
  std::string where_it_stands() const {
    return table_ ? line_of(*table_) + (name_.empty() ? "" : " (" + name_ + ")") : file_.string();
  }
  /// Refuses what nobody asked for.
  void finish() const {
    if (!table_) return;
    for (const auto& [key, node] : *table_) {
      if (asked_.count(std::string(key.str()))) continue;
      std::string known;
      for (const auto& k : asked_) known += (known.empty() ? "" : ", ") + k;
      throw InputError(fmt::format("unknown key '{}'{}", std::string(key.str()),
                                   name_.empty() ? "" : " in [" + name_ + "]"),
                       line_of(node), "known here: " + known);
    }
  }
  [[noreturn]] void fail(const char* key, const std::string& what,
                         const std::string& advice) const {
    throw InputError("'" + full(key) + "' " + what, where(key), advice);
  }
  std::string where(const char* key) const {
    const toml::node* node = table_ ? table_->get(key) : nullptr;
    return node ? line_of(*node) + " (" + full(key) + ")" : file_.string();
  }

 private:
  std::string full(const char* key) const { return name_.empty() ? key : name_ + "." + key; }
  std::string line_of(const toml::node& node) const {
    const auto line = node.source().begin.line;  // none of what a sweep has set
    return line > 0 ? fmt::format("{}:{}", file_.string(), line) : file_.string();
  }
  static std::string first_unit(Dimension d) {
    const std::string all = known_units(d);
    return all.substr(0, all.find(','));
  }
  const toml::node* find(const char* key) {
    asked_.insert(key);
    return table_ ? table_->get(key) : nullptr;
  }
  template <class T>
  const T* typed(const char* key, const std::string& expected) {
    const toml::node* node = find(key);
    if (!node) return nullptr;
    const T* v = node->as<
        std::conditional_t<std::is_same_v<T, toml::value<std::string>>, std::string,
                           std::conditional_t<std::is_same_v<T, toml::value<bool>>, bool, T>>>();
    if (!v) fail(key, "is not " + expected, "correct it");
    return v;
  }
  double positive(const char* key, double v, const std::string& shown) const {
    if (!(v > 0)) fail(key, "is '" + shown + "', but must be above zero", "check its sign");
    return v;
  }

  const toml::table* table_;
  std::string name_;
  const std::filesystem::path& file_;
  std::set<std::string> asked_;
};

}  // namespace dunefield
