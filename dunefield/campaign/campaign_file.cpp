#include <dunefield/campaign/campaign_file.hpp>

#include <algorithm>
#include <cmath>
#include <set>

#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/evaluation_tables.hpp>
#include <dunefield/campaign/flow_tables.hpp>
#include <dunefield/campaign/sections.hpp>
#include <dunefield/campaign/shape_table.hpp>
#include <dunefield/campaign/table.hpp>
#include <dunefield/campaign/variant_tables.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

void read_vehicle(Table t, Campaign& c) {
  c.surfaces = files_beside(c.file, t.texts("files"));
  for (std::size_t i = 0; i < c.surfaces.size(); ++i)
    for (std::size_t j = 0; j < i; ++j)
      if (c.surfaces[i] == c.surfaces[j])
        t.fail("files", "lists '" + c.surfaces[i].filename().string() + "' twice", "list it once");
  c.placing.unit = length_unit(t.text("unit", "m"), t.where("unit"));
  c.placing.nose = t.choice("nose", c.placing.nose, {"-x", "+x", "-y", "+y", "-z", "+z"});
  c.placing.up = t.choice("up", c.placing.up, {"+z", "-z", "+y", "-y", "+x", "-x"});
  if (c.placing.nose[1] == c.placing.up[1])
    t.fail("up", "lies along the nose", "give two different axes");
  c.placing.scale = t.number("scale", c.placing.scale, 1e-6);
  c.recipe.sheet_parts = t.texts("sheets");
  c.recipe.open_cavities = t.choice("cavities", "closed", {"closed", "open"}) == "open";
  c.shapes_of_vehicle = t.texts("shapes");
  if (t.has("road")) c.placing.road = t.signed_quantity("road", Dimension::length, 0);
  c.vehicle_name = t.text("name", c.vehicle_name);
  t.finish();
}

void read_layers(Table t, Campaign& c) {
  LayerChoice& l = c.recipe.layers;
  if (t.has("count")) {
    l.count = static_cast<int>(t.number("count", 0, 0));
    if (*l.count > 60) t.fail("count", "is over 60", "use fewer layers, or a larger growth");
  }
  if (t.has("growth")) {
    l.growth = t.number("growth", 1.3, 1);
    if (*l.growth > 2)
      t.fail("growth", "is over 2",
             "write the ratio of one layer's height to the one below, like 1.3");
  }
  l.first_height = t.quantity("first_height", Dimension::length);
  l.total = t.quantity("total", Dimension::length);
  if (t.has("total_leaves")) l.total_leaves = t.number("total_leaves", 0.7, 0.01);
  if (t.has("y_plus")) l.y_plus = t.number("y_plus", 30, 0.01);
  l.without = t.texts("without");
  const int given =
      (l.first_height ? 1 : 0) + (l.total ? 1 : 0) + (l.total_leaves ? 1 : 0) + (l.y_plus ? 1 : 0);
  if (l.count && *l.count == 0 && given > 0)
    t.fail("count", "is zero, but a height is given",
           "write how many layers there shall be, or leave the height out");
  if (given > 1)
    t.fail("first_height", "total, total_leaves and y_plus: just one of them is needed",
           "give one");
  t.finish();
}

void read_mesh(Table t, Campaign& c) {
  read_layers(t.table("layers"), c);
  c.recipe.name = t.choice("recipe", c.recipe.name, {"sketch", "scout", "standard", "fine"});
  c.recipe.surface_size = t.quantity("surface_size", Dimension::length);
  c.recipe.smallest_size = t.quantity("smallest_size", Dimension::length);
  c.recipe.edge_size = t.quantity("edge_size", Dimension::length);
  for (const auto& [key, into] : {std::pair{"cells_per_turn", &c.recipe.cells_per_turn},
                                  {"gap_cells", &c.recipe.gap_cells},
                                  {"thin_cells", &c.recipe.thin_cells},
                                  {"cells", &c.recipe.target_cells}})
    if (t.has(key)) *into = t.number(key, 0, 0);
  c.morph = t.flag("morph", c.morph);
  c.recipe.adapt = t.flag("adapt", c.recipe.adapt);
  if (c.recipe.target_cells && *c.recipe.target_cells < 1000)
    t.fail("cells", "is under 1000", "write how many cells the mesh shall about have");
  if (c.recipe.target_cells && c.recipe.surface_size)
    t.fail("cells", "and surface_size contradict each other", "give one of them");
  c.recipe.part_size = t.table("parts").quantities_by_name(Dimension::length);
  for (Table& b : t.tables("box")) {
    RefinedBox box;
    box.name = b.text("name", "box");
    box.box.include(b.place("from"));
    box.box.include(b.place("to"));
    const auto size = b.quantity("size", Dimension::length);
    if (!size) b.fail("size", "is missing", "write size = \"20 mm\"");
    box.size = *size;
    b.finish();
    c.recipe.boxes.push_back(box);
  }
  t.finish();
}

void read_certainty(Table t, Campaign& c) {
  constexpr double most = 32;
  const double n = t.number("lattices", c.lattices, 1);
  if (n > most || n != std::floor(n))
    t.fail("lattices", "is no whole number from 1 to 32",
           "four are enough to halve an uncertainty");
  c.lattices = static_cast<int>(n);
  t.finish();
}

Vec3 needed_place(Table& t, const char* key) {
  if (!t.has(key))
    t.fail(key, "is missing", std::string("write ") + key + " = [\"1 m\", \"0 m\", \"0.5 m\"]");
  return t.place(key);
}

void read_probes(Table& root, Campaign& c) {
  std::set<std::string> taps, rakes, planes;
  for (Table& t : root.tables("tap")) {
    const std::string name = t.new_name(taps);
    c.readings.taps.push_back({name, needed_place(t, "at")});
    t.finish();
  }
  for (Table& t : root.tables("rake")) {
    constexpr double most = 1e6;  // a slip of the keys, not a rake
    const std::string name = t.new_name(rakes);
    const Vec3 from = needed_place(t, "from"), to = needed_place(t, "to");
    const double along = t.number("points", 10, 1),
                 across = t.has("far_side") ? t.number("rows", 10, 1) : 1;
    const Vec3 far_side = t.has("far_side") ? t.place("far_side") : from;
    if (along * across > most) t.fail("points", "are more than a million", "take fewer");
    c.readings.rakes.push_back(
        rake_grid(name, from, to, far_side, static_cast<int>(along), static_cast<int>(across)));
    t.finish();
  }
  for (Table& t : root.tables("plane")) {
    MeasuringPlane p;
    p.name = t.new_name(planes);
    p.centre = needed_place(t, "centre");
    p.normal = unit(t.direction("normal", {1, 0, 0}));
    p.width = t.quantity("width", Dimension::length).value_or(0),
    p.height = t.quantity("height", Dimension::length).value_or(0);
    if ((p.width > 0) != (p.height > 0))
      t.fail(p.width > 0 ? "height" : "width", "is missing",
             "give both, or neither for all of the tunnel's cut");
    t.finish();
    c.readings.planes.push_back(p);
  }
}

void read_wheels(Table& root, Campaign& c) {
  Table t = root.table("wheels");
  c.placing.wheel_parts = t.texts("parts");
  std::set<std::string> seen;
  for (const auto& name : c.placing.wheel_parts)
    if (!seen.insert(name).second) t.fail("parts", "lists '" + name + "' twice", "list it once");
  c.placing.find_wheels = t.flag("find", c.placing.wheel_parts.empty());
  c.conditions.wheels_turn = t.flag("turn", true);
  t.finish();
  for (Table& g : root.tables("wheel")) {
    GivenWheel w;
    w.wheel.part = g.text("name", "");
    if (w.wheel.part.empty()) g.fail("name", "is missing", "give each wheel a name");
    if (!seen.insert(w.wheel.part).second)
      g.fail("name", "'" + w.wheel.part + "' stands twice", "give each wheel its own name");
    w.from_part = g.text("part", "");
    if (!g.has("centre"))
      g.fail("centre", "is missing", "write centre = [\"-1.6 m\", \"0.8 m\", \"0.33 m\"]");
    w.wheel.centre = g.place("centre");
    w.wheel.axis = unit(g.direction("axis", {0, 1, 0}));
    w.wheel.radius = g.needed("radius", Dimension::length);
    w.wheel.width = g.needed("width", Dimension::length);
    g.finish();
    c.placing.given_wheels.push_back(w);
  }
}

/// Files or shapes make the vehicle, or each variant brings its own.
void check_that_there_is_a_vehicle(Table vehicle, const Campaign& c) {
  if (!c.surfaces.empty() || !c.shapes_of_vehicle.empty()) return;
  for (const Campaign::Variant& v : c.variants)
    if (v.add.empty() && v.shapes.empty())
      vehicle.fail("files", "names no surface file, and variant '" + v.name + "' brings none",
                   "write files = [\"vehicle.stl\"], or shapes = [...] with [[shape]]s");
}

/// A name of many parts becomes as many tables inside of each other, which are freed by calls.
void refuse_deep_names(const std::string& text, const fs::path& file) {
  constexpr int deepest = 32;
  int line = 1, dots = 0;
  char quote = 0;  // or the # of a comment
  for (const char c : text) {
    if (c == '\n') ++line, dots = 0, quote = 0;
    if (c == '"' || c == '\'' || c == '#') quote = quote == 0 ? c : quote == c ? char{0} : quote;
    if (quote != 0) continue;
    if (std::string_view("=,[]{}").find(c) != std::string_view::npos) dots = 0;
    if (c == '.' && ++dots > deepest)
      throw InputError(fmt::format("a name has more than {} parts", deepest),
                       fmt::format("{}:{}", file.string(), line),
                       "write names as the docs have them");
  }
}

toml::table parsed(const std::string& text, const fs::path& file) {
  constexpr std::size_t largest = 16 << 20;
  if (text.size() > largest)
    throw InputError("is larger than any campaign", file.string(),
                     "check that it is the right file");
  refuse_deep_names(text, file);
  try {
    return toml::parse(text, file.string());
  } catch (const toml::parse_error& e) {
    throw InputError(std::string(e.description()),
                     fmt::format("{}:{}", file.string(), e.source().begin.line),
                     "correct the TOML there");
  }
}

void read_shapes(Table& root, Campaign& c) {
  for (Table& shape : root.tables("shape")) {
    Surface s = read_shape(shape, c.file.parent_path());
    for (const Surface& other : c.shapes)
      if (other.part_names[0] == s.part_names[0])
        shape.fail("name", "'" + s.part_names[0] + "' stands twice",
                   "give each shape its own name");
    c.shapes.push_back(std::move(s));
  }
}

void read_reference(Table t, Campaign& c) {
  c.frontal_area = t.quantity("frontal_area", Dimension::area);
  c.wheelbase = t.quantity("wheelbase", Dimension::length);
  t.finish();
}

/// In the stream as it is, or as it becomes from rest.
double speed_at_mach(double mach, const Campaign& c) {
  const FastAir gas;
  if (!c.conditions.total) return mach * gas.speed_of_sound(c.stream_temperature);
  const double ratio = 1 + 0.5 * (gas.heat_ratio - 1) * mach * mach;
  return mach * gas.speed_of_sound(c.conditions.total->temperature / ratio);
}

void read_runs(Table t, Campaign& c) {
  c.speeds = t.quantities("speeds", Dimension::speed);
  for (const double mach : t.numbers("mach")) {
    if (!(mach > 0)) t.fail("mach", "has a number that is not above zero", "check it");
    c.speeds.push_back(speed_at_mach(mach, c));
  }
  for (std::size_t i = 0; i < c.speeds.size(); ++i)
    for (std::size_t j = 0; j < i; ++j)
      if (std::abs(c.speeds[i] / c.speeds[j] - 1) < 1e-9)
        t.fail("speeds", fmt::format("lists {:.10g} km/h twice", 3.6 * c.speeds[i]),
               "list it once");
  c.reynolds_numbers = t.numbers("reynolds");
  for (const double re : c.reynolds_numbers)
    if (!(re > 0)) t.fail("reynolds", "has a number that is not above zero", "check it");
  if (c.speeds.empty() && c.reynolds_numbers.empty())
    t.fail("speeds", "names no speed", "write speeds = [\"90 km/h\"], or reynolds = [2e6]");
  c.settings = read_settings(t);
  double& yaw = c.conditions.yaw;
  if (!t.list("yaw")) yaw = t.signed_quantity("yaw", Dimension::angle, 0);
  if (std::abs(yaw) > 0.8) t.fail("yaw", "is over 45 degrees", "check its unit");
  if (yaw != 0 && c.tunnel.half)
    t.fail("yaw", "is not zero, but a half model has no side wind", "set tunnel.half = false");
  c.conditions.crosswind = t.choice("yaw_kind", "turned", {"turned", "crosswind"}) == "crosswind";
  t.finish();
}

Campaign read_parsed(const fs::path& file, const toml::table& root) {
  Campaign c;
  c.file = file;
  Table t(&root, "", c.file);
  c.name = t.text("name", file.stem().string());
  c.units = display_units(t.choice("units", "si", {"si", "us"}), file.string());
  c.readings.units = c.units.name;
  if (!t.has("vehicle"))
    t.fail("vehicle", "is missing", "add [vehicle] with files = [\"vehicle.stl\"]");
  const bool several = root.contains("vehicle") && root["vehicle"].is_array();
  const std::vector<Table> vehicles =
      several ? t.tables("vehicle") : std::vector<Table>{t.table("vehicle")};
  if (vehicles.empty())
    t.fail("vehicle", "lists none", "add [vehicle] with files = [\"vehicle.stl\"]");
  read_vehicle(vehicles.front(), c);
  c.companions = read_companions(vehicles, c.file);
  read_wheels(t, c);
  c.ride = read_ride(t.table("ride"));
  read_shapes(t, c);
  c.conditions.belts = read_belts(t);
  if (t.has("section")) c.tunnel.ahead = 30, c.tunnel.behind = 40;  // see tunnel_box
  read_tunnel(t.table("tunnel"), c);
  c.placing.centred = c.tunnel.half;
  for (Companion& one : c.companions) {
    one.placing.centred = c.tunnel.half;
    if (c.tunnel.half && one.aside != 0)
      t.fail("vehicle", "'" + one.name + "' stands aside, but half = true mirrors at the middle",
             "write [tunnel] half = false");
  }
  read_probes(t, c);
  c.devices = read_devices(t, c.part_of_device), c.openings = read_openings(t),
  c.time = read_time(t);
  read_air(t.table("air"), c);
  c.conditions.roughness = t.table("roughness").quantities_by_name(Dimension::length);
  c.conditions.wall_temperature =
      t.table("wall_temperature").quantities_by_name(Dimension::temperature);
  c.conditions.wall_heat = t.table("wall_heat").quantities_by_name(Dimension::heat_flux);
  read_mesh(t.table("mesh"), c);
  read_flow(t.table("flow"), c);
  read_certainty(t.table("certainty"), c);
  read_reference(t.table("reference"), c);
  read_runs(t.table("runs"), c);
  read_variants(t.tables("variant"), c);
  read_section(t, c);
  read_evaluation(t, c);
  check_that_there_is_a_vehicle(vehicles.front(), c);
  t.finish();
  return c;
}

}  // namespace

Campaign parse_campaign(const std::string& text, const fs::path& file, const Settings& settings) {
  toml::table root = parsed(text, file);
  Campaign c = read_parsed(file, root);
  c.text = text;
  const Settings& own = settings.empty() ? c.settings.front() : settings;
  if (own.empty()) return c;
  for (const Setting& s : own) set_key(root, s, file.string());
  Campaign changed = read_parsed(file, root);
  changed.text = text, changed.settings = std::move(c.settings);
  return changed;
}

Campaign read_campaign(const fs::path& file, const Settings& settings) {
  std::error_code status;
  if (!fs::is_regular_file(file, status))
    throw InputError("there is no such campaign file", file.string(), "check the path");
  return parse_campaign(read_text(file), file, settings);
}

}  // namespace dunefield
