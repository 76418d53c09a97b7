#include <dunefield/campaign/campaign_file.hpp>

#include <set>

#include <fmt/format.h>
#include <toml++/toml.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

/// One table of the file. Remembers which keys were asked for, so that the others can be refused.
class Table {
 public:
  Table(const toml::table* table, std::string name, const fs::path& file) : table_(table), name_(std::move(name)), file_(file) {}

  bool has(const char* key) const { return table_ && table_->contains(key); }
  Table table(const char* key) { return Table(typed<toml::table>(key, "a table"), full(key), file_); }
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
    return v ? v->get() : otherwise;
  }
  std::string choice(const char* key, const std::string& otherwise, const std::vector<std::string>& known) {
    const std::string v = text(key, otherwise);
    std::string list;
    for (const auto& k : known) {
      if (k == v) return v;
      list += (list.empty() ? "" : ", ") + k;
    }
    fail(key, "'" + v + "' is not known", "use one of " + list);
  }
  bool flag(const char* key, bool otherwise) {
    const auto* v = typed<toml::value<bool>>(key, "true or false");
    return v ? v->get() : otherwise;
  }
  double number(const char* key, double otherwise, double least) {
    const toml::node* node = find(key);
    if (!node) return otherwise;
    const auto v = node->value<double>();
    if (!v || node->is_string() || node->is_boolean()) fail(key, "is not a number", "write a plain number");
    if (!std::isfinite(*v) || *v < least) fail(key, fmt::format("is {}, but must be at least {}", *v, least), "check it");
    return *v;
  }
  /// A quantity with a unit, above zero.
  std::optional<double> quantity(const char* key, Dimension dimension) {
    const auto* v = typed<toml::value<std::string>>(key, "a number and a unit in quotes, like \"1.2 " + first_unit(dimension) + "\"");
    if (!v) return std::nullopt;
    return positive(key, parse_quantity(v->get(), dimension, where(key)), v->get());
  }
  std::vector<double> quantities(const char* key, Dimension dimension) {
    std::vector<double> out;
    for (const std::string& t : texts(key)) out.push_back(positive(key, parse_quantity(t, dimension, where(key)), t));
    return out;
  }
  std::vector<std::string> texts(const char* key) {
    std::vector<std::string> out;
    if (const auto* list = typed<toml::array>(key, "a list of texts"))
      for (const auto& node : *list) {
        if (!node.is_string()) fail(key, "has an entry that is not text in quotes", "write [\"...\", \"...\"]");
        out.push_back(node.as_string()->get());
      }
    return out;
  }
  Vec3 place(const char* key) {
    const auto t = texts(key);
    if (t.size() != 3) fail(key, "must be three lengths", "write [\"1 m\", \"0 m\", \"0.5 m\"]");
    Vec3 v;
    for (int i = 0; i < 3; ++i) v[i] = parse_quantity(t[static_cast<std::size_t>(i)], Dimension::length, where(key));
    return v;
  }
  std::map<std::string, double> lengths_by_name() {
    std::map<std::string, double> out;
    if (table_)
      for (const auto& [key, node] : *table_) out[std::string(key.str())] = *quantity(std::string(key.str()).c_str(), Dimension::length);
    return out;
  }
  /// Refuses what nobody asked for.
  void finish() const {
    if (!table_) return;
    for (const auto& [key, node] : *table_) {
      if (asked_.count(std::string(key.str()))) continue;
      std::string known;
      for (const auto& k : asked_) known += (known.empty() ? "" : ", ") + k;
      throw InputError(fmt::format("unknown key '{}'{}", std::string(key.str()), name_.empty() ? "" : " in [" + name_ + "]"), line_of(node),
                       "known here: " + known);
    }
  }
  [[noreturn]] void fail(const char* key, const std::string& what, const std::string& advice) const {
    throw InputError("'" + full(key) + "' " + what, where(key), advice);
  }
  std::string where(const char* key) const {
    const toml::node* node = table_ ? table_->get(key) : nullptr;
    return node ? line_of(*node) + " (" + full(key) + ")" : file_.string();
  }

 private:
  std::string full(const char* key) const { return name_.empty() ? key : name_ + "." + key; }
  std::string line_of(const toml::node& node) const { return fmt::format("{}:{}", file_.string(), node.source().begin.line); }
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
    const T* v = node->as<std::conditional_t<std::is_same_v<T, toml::value<std::string>>, std::string, std::conditional_t<std::is_same_v<T, toml::value<bool>>, bool, T>>>();
    if (!v) fail(key, "is not " + expected, "correct it");
    return v;
  }
  double positive(const char* key, double v, const std::string& shown) const {
    if (!(v > 0)) fail(key, "is '" + shown + "', but must be above zero", "check its sign");
    return v;
  }

  const toml::table* table_;
  std::string name_;
  const fs::path& file_;
  std::set<std::string> asked_;
};

std::vector<fs::path> beside(const fs::path& file, const std::vector<std::string>& names) {
  std::vector<fs::path> out;
  for (const auto& n : names) out.push_back(fs::path(n).is_absolute() ? fs::path(n) : file.parent_path() / n);
  return out;
}

void read_vehicle(Table t, Campaign& c) {
  c.surfaces = beside(c.file, t.texts("files"));
  if (c.surfaces.empty()) t.fail("files", "names no surface file", "write files = [\"vehicle.stl\"]");
  c.unit = length_unit(t.text("unit", "m"), t.where("unit"));
  c.nose = t.choice("nose", c.nose, {"-x", "+x", "-y", "+y", "-z", "+z"});
  c.up = t.choice("up", c.up, {"+z", "-z", "+y", "-y", "+x", "-x"});
  if (c.nose[1] == c.up[1]) t.fail("up", "lies along the nose", "give two different axes");
  c.scale = t.number("scale", c.scale, 1e-6);
  t.finish();
}

void read_tunnel(Table t, Campaign& c) {
  c.tunnel.half = t.flag("half", false);
  c.tunnel.ahead = t.number("ahead", c.tunnel.ahead, 0.5);
  c.tunnel.behind = t.number("behind", c.tunnel.behind, 1);
  c.tunnel.width = t.number("width", 0, 0);
  c.tunnel.height = t.number("height", 0, 0);
  c.tunnel.blockage = t.number("blockage", c.tunnel.blockage, 1e-4);
  c.rolling_road = t.choice("road", "rolling", {"rolling", "fixed"}) == "rolling";
  c.road_speed = t.quantity("road_speed", Dimension::speed);
  t.finish();
}

void read_mesh(Table t, Campaign& c) {
  c.recipe = t.choice("recipe", c.recipe, {"scout", "standard", "fine"});
  c.surface_size = t.quantity("surface_size", Dimension::length);
  c.part_size = t.table("parts").lengths_by_name();
  for (Table& b : t.tables("box")) {
    RefinedBox box;
    box.name = b.text("name", "box");
    box.box.include(b.place("from"));
    box.box.include(b.place("to"));
    const auto size = b.quantity("size", Dimension::length);
    if (!size) b.fail("size", "is missing", "write size = \"20 mm\"");
    box.size = *size;
    b.finish();
    c.boxes.push_back(box);
  }
  t.finish();
}

void read_flow(Table t, Campaign& c) {
  c.flow.turbulence = t.choice("turbulence", "sst", {"sst", "laminar"}) == "sst" ? TurbulenceModel::sst : TurbulenceModel::laminar;
  c.iterations = static_cast<int>(t.number("iterations", c.iterations, 1));
  c.until_settled = t.flag("until_settled", true);
  c.flow.stream_turbulence.intensity = t.number("stream_intensity", c.flow.stream_turbulence.intensity, 1e-6);
  c.flow.stream_turbulence.viscosity_ratio = t.number("stream_viscosity_ratio", c.flow.stream_turbulence.viscosity_ratio, 1e-6);
  c.flow.courant = t.number("courant", c.flow.courant, 0.01);
  t.finish();
}

void read_variants(std::vector<Table> tables, Campaign& c) {
  std::set<std::string> names;
  for (Table& t : tables) {
    Campaign::Variant v;
    v.name = t.text("name", "");
    if (v.name.empty()) t.fail("name", "is missing", "give each variant a name");
    if (!names.insert(v.name).second) t.fail("name", "'" + v.name + "' stands twice", "give each variant its own name");
    v.add = beside(c.file, t.texts("add"));
    v.remove = t.texts("remove");
    t.finish();
    c.variants.push_back(v);
  }
  if (c.variants.empty()) c.variants.push_back({"as it is", {}, {}});
}

}  // namespace

Campaign read_campaign(const fs::path& file) {
  std::error_code status;
  if (!fs::is_regular_file(file, status)) throw InputError("there is no such campaign file", file.string(), "check the path");
  toml::table root;
  try {
    root = toml::parse_file(file.string());
  } catch (const toml::parse_error& e) {
    throw InputError(std::string(e.description()), fmt::format("{}:{}", file.string(), e.source().begin.line), "correct the TOML there");
  }
  Campaign c;
  c.file = file;
  Table t(&root, "", c.file);
  c.name = t.text("name", file.stem().string());
  if (!t.has("vehicle")) t.fail("vehicle", "is missing", "add [vehicle] with files = [\"vehicle.stl\"]");
  read_vehicle(t.table("vehicle"), c);
  Table wheels = t.table("wheels");
  c.wheel_parts = wheels.texts("parts");
  c.find_wheels = wheels.flag("find", c.wheel_parts.empty());
  c.wheels_turn = wheels.flag("turn", true);
  wheels.finish();
  read_tunnel(t.table("tunnel"), c);
  Table air = t.table("air");
  c.air.density = air.quantity("density", Dimension::density).value_or(c.air.density);
  c.air.kinematic_viscosity = air.quantity("kinematic_viscosity", Dimension::kinematic_viscosity).value_or(c.air.kinematic_viscosity);
  air.finish();
  read_mesh(t.table("mesh"), c);
  read_flow(t.table("flow"), c);
  Table reference = t.table("reference");
  c.frontal_area = reference.quantity("frontal_area", Dimension::area);
  c.wheelbase = reference.quantity("wheelbase", Dimension::length);
  reference.finish();
  Table runs = t.table("runs");
  c.speeds = runs.quantities("speeds", Dimension::speed);
  if (c.speeds.empty()) runs.fail("speeds", "names no speed", "write speeds = [\"90 km/h\"]");
  runs.finish();
  read_variants(t.tables("variant"), c);
  t.finish();
  return c;
}

}  // namespace dunefield
