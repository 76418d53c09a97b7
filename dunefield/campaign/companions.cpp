#include <dunefield/campaign/companions.hpp>

#include <algorithm>
#include <set>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/frontal_area.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

Vehicle placed_companion(const Companion& c, const std::string& where, Findings& findings) {
  Surface upright = read_upright(c.surfaces, c.placing);
  const Vec3 shift = placement(upright, c.placing, findings);
  Vehicle v = placed_vehicle(c.name, std::move(upright), shift, c.placing, where);
  const std::string prefix = part_prefix(c.name);
  for (std::string& p : v.surface.part_names) p = prefix + p;
  for (Wheel& w : v.wheels) w.part = prefix + w.part;
  return v;
}

void move(Vehicle& v, const Vec3& way) {
  translate(v.surface, way);
  for (Wheel& w : v.wheels) w.centre += way;
}

bool overlap(const Box& a, const Box& b) {
  for (int k = 0; k < 3; ++k)
    if (a.hi[k] <= b.lo[k] || b.hi[k] <= a.lo[k]) return false;
  return true;
}

}  // namespace

std::vector<Companion> read_companions(std::vector<Table> tables, const fs::path& file) {
  std::vector<Companion> all;
  std::set<std::string> names;
  for (std::size_t i = 1; i < tables.size(); ++i) {
    Table& t = tables[i];
    Companion c;
    c.name = t.text("name", "");
    if (c.name.empty()) t.fail("name", "is missing", "give each vehicle a name");
    if (!names.insert(c.name).second)
      t.fail("name", "'" + c.name + "' stands twice", "give each vehicle its own name");
    for (const std::string& f : t.texts("files"))
      c.surfaces.push_back(fs::path(f).is_absolute() ? fs::path(f) : file.parent_path() / f);
    if (c.surfaces.empty())
      t.fail("files", "names no surface file", "write files = [\"vehicle.stl\"]");
    c.placing.unit = length_unit(t.text("unit", "m"), t.where("unit"));
    c.placing.nose = t.choice("nose", c.placing.nose, {"-x", "+x", "-y", "+y", "-z", "+z"});
    c.placing.up = t.choice("up", c.placing.up, {"+z", "-z", "+y", "-y", "+x", "-x"});
    c.placing.scale = t.number("scale", c.placing.scale, 1e-6);
    if (t.has("road")) c.placing.road = t.signed_quantity("road", Dimension::length, 0);
    c.spacing = t.signed_quantity("spacing", Dimension::length, 0);
    c.aside = t.signed_quantity("aside", Dimension::length, 0);
    t.finish();
    all.push_back(c);
  }
  return all;
}

std::string part_prefix(const std::string& companion) { return companion + ": "; }

void join(Vehicle& v, const std::string& first, const std::vector<Companion>& companions,
          const std::string& where) {
  v.group = {{first, "", bounds(v.surface), frontal_area(v.surface)}};
  for (const Companion& c : companions) {
    for (const std::string& p : v.surface.part_names)
      if (p.starts_with(part_prefix(c.name)))
        throw InputError("the part '" + p + "' has the name of the vehicle '" + c.name + "'", where,
                         "call the vehicle otherwise");
    Vehicle other = placed_companion(c, where, v.findings);
    const Box before = v.group.back().bounds, own = bounds(other.surface);
    move(other, {before.hi.x + c.placing.scale * c.spacing - own.lo.x,
                 v.group.back().aside + c.placing.scale * c.aside, 0});
    const VehicleGroup g{c.name, part_prefix(c.name), bounds(other.surface),
                         frontal_area(other.surface),
                         v.group.back().aside + c.placing.scale * c.aside};
    for (const VehicleGroup& there : v.group)
      if (overlap(there.bounds, g.bounds))
        throw InputError(
            fmt::format("the vehicles '{}' and '{}' overlap: their boxes share {:.3f} m along the "
                        "stream",
                        there.name, g.name,
                        std::min(there.bounds.hi.x, g.bounds.hi.x) -
                            std::max(there.bounds.lo.x, g.bounds.lo.x)),
            where, "give a larger spacing, or move one aside");
    v.group.push_back(g);
    append(v.surface, other.surface);
    v.wheels.insert(v.wheels.end(), other.wheels.begin(), other.wheels.end());
  }
}

void keep_only(Vehicle& v, const std::vector<std::string>& names, const std::string& where) {
  std::vector<std::string> known;
  for (const VehicleGroup& g : v.group) known.push_back(g.name);
  for (const std::string& n : names)
    if (std::find(known.begin(), known.end(), n) == known.end())
      throw InputError("there is no vehicle '" + n + "'", where,
                       fmt::format("there are {}", fmt::join(known, ", ")));
  const auto kept = [&](const std::string& part) {
    const std::string& name = group_of(v.group, part).name;
    return std::find(names.begin(), names.end(), name) != names.end();
  };
  std::vector<bool> keep;
  for (const std::string& p : v.surface.part_names) keep.push_back(kept(p));
  v.surface = select_parts(v.surface, keep);
  drop_unused_points(v.surface);
  std::erase_if(v.wheels, [&](const Wheel& w) { return !kept(w.part); });
  for (VehicleGroup& g : v.group)
    g.present = std::find(names.begin(), names.end(), g.name) != names.end();
}

}  // namespace dunefield
