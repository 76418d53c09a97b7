#include <dunefield/campaign/sections.hpp>

#include <algorithm>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/table.hpp>
#include <dunefield/geometry/outline.hpp>

namespace dunefield {

void read_section(Table& root, Campaign& c) {
  if (!root.has("section")) return;
  Table t = root.table("section");
  SectionChoice section;
  section.at = t.signed_quantity("at", Dimension::length, 0);
  section.ground = t.flag("ground", true);
  section.clearance = t.quantity("clearance", Dimension::length);
  if (section.clearance && !section.ground)
    t.fail("clearance", "is given, but ground = false", "leave one of them out");
  section.chord = t.quantity("chord", Dimension::length);
  section.by_height = t.choice("reference", "chord", {"chord", "height"}) == "height";
  if (c.tunnel.half)
    t.fail("at", "makes a section, which has no halves", "leave [tunnel] half out");
  if (c.conditions.yaw != 0)
    t.fail("at", "makes a section, which has no side wind", "leave [runs] yaw out");
  if (!c.companions.empty())
    t.fail("at", "makes a section, which is of one vehicle", "write one [vehicle] table");
  if (!c.devices.empty() || !c.conditions.belts.empty())
    t.fail("at", "makes a section, which has neither cores, fans nor belts", "leave them out");
  if (!c.placing.wheel_parts.empty() || !c.placing.given_wheels.empty())
    t.fail("at", "makes a section, whose wheels do not turn", "leave the wheels out");
  const LayerChoice& layers = c.recipe.layers;
  if (layers.total || layers.total_leaves || !layers.without.empty())
    t.fail("at", "makes a section, whose layers reach up to cells as high as long on all parts",
           "give [mesh.layers] count, growth, first_height or y_plus alone");
  if (c.recipe.thin_cells || !c.recipe.sheet_parts.empty())
    t.fail("at", "makes a section, which has no sheets and no cells across thin places",
           "leave [mesh] thin_cells and [vehicle] sheets out");
  t.finish();
  c.placing.find_wheels = false;
  c.tunnel.section = true, c.tunnel.road = section.ground;
  c.section = section;
}

double section_plane(const Campaign& c) { return c.section->at * c.placing.scale; }

Vec3 to_quarter_chord(const Surface& upright, double y) {
  Findings unsaid;
  const Box box = outline_at(upright, y, unsaid).bounds();
  return {-(box.lo.x + 0.25 * box.size().x), 0, -box.centre().z};
}

void cut_to_section(Vehicle& v, const Campaign& c, double y, Findings& findings) {
  v.surface = slab(outline_at(v.surface, y, findings), 0, section_depth);
  std::vector<bool> cut(v.surface.part_names.size(), false);
  for (const int part : v.surface.part_of) cut[at(part)] = true;
  v.surface = select_parts(v.surface, cut);
  v.wheels.clear();
  if (c.section->clearance)
    translate(v.surface, {0, 0, *c.section->clearance * c.placing.scale - bounds(v.surface).lo.z});
}

CommonFrame frame_of_section(const Campaign& c, const std::vector<Vehicle>& vehicles) {
  CommonFrame f;
  for (const Vehicle& v : vehicles) f.bounds.include(bounds(v.surface));
  // The slab's depth is no size of the body.
  f.bounds.lo.y = f.bounds.hi.y = f.bounds.centre().y;
  Findings unsaid;
  const Outline first = outline_at(vehicles.front().surface, f.bounds.centre().y, unsaid);
  const double height = first.bounds().size().z,
               chord = c.section->chord ? *c.section->chord * c.placing.scale : first.chord();
  f.frontal_area = height * section_depth;
  f.vehicle_length = chord;
  f.reference_length = c.wheelbase.value_or(chord);
  f.reference_area =
      c.frontal_area.value_or((c.section->by_height ? height : chord) * section_depth);
  return f;
}

}  // namespace dunefield
