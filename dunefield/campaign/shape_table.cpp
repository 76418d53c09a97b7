#include <dunefield/campaign/shape_table.hpp>

#include <dunefield/geometry/shapes/capsules.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/shapes/wing.hpp>

namespace dunefield {
namespace {

Vec3 needed_place(Table& t, const char* key) {
  if (!t.has(key))
    t.fail(key, "is missing", "write three lengths, like [\"1 m\", \"0 m\", \"0.5 m\"]");
  return t.place(key);
}

Surface read_box(Table& t, const std::string& name) {
  Box box;
  box.include(needed_place(t, "from"));
  box.include(needed_place(t, "to"));
  const double rounding = t.signed_quantity("rounding", Dimension::length, 0),
               least = std::min({box.size().x, box.size().y, box.size().z});
  if (!(least > 0)) t.fail("to", "gives a box without a volume", "check the corners");
  if (rounding < 0) t.fail("rounding", "is negative", "leave it out for sharp edges");
  if (2 * rounding >= least) t.fail("rounding", "is half the box or more", "choose a smaller one");
  return rounded_box(name, box, rounding);
}

Surface read_loft(Table& t, const std::string& name) {
  std::vector<std::vector<Vec3>> rings;
  for (Table& section : t.tables("section")) {
    rings.push_back(section.places("points"));
    section.finish();
  }
  return loft(name, rings);
}

Surface read_revolution(Table& t, const std::string& name) {
  std::vector<std::array<double, 2>> profile;
  for (Table& p : t.tables("profile")) {
    const double radius = p.signed_quantity("radius", Dimension::length, 0);
    if (radius < 0) p.fail("radius", "is below zero", "check its sign");
    profile.push_back({p.signed_quantity("along", Dimension::length, 0), radius});
    p.finish();
  }
  if (profile.size() < 2)
    t.fail("profile", "needs at least two points", "add [[shape.profile]] with along and radius");
  const int around = static_cast<int>(t.number("around", 48, 3));
  return revolve(name, profile, needed_place(t, "centre"), t.direction("axis", {1, 0, 0}),
                 std::min(around, 2000));
}

Surface read_capsules(Table& t, const std::string& name) {
  std::vector<Capsule> capsules;
  double least = 1e300;
  for (Table& c : t.tables("capsule")) {
    Capsule capsule;
    capsule.from = needed_place(c, "from"), capsule.to = needed_place(c, "to");
    capsule.from_radius = c.needed("radius", Dimension::length);
    capsule.to_radius = c.quantity("end_radius", Dimension::length).value_or(capsule.from_radius);
    least = std::min({least, capsule.from_radius, capsule.to_radius});
    c.finish();
    capsules.push_back(capsule);
  }
  if (capsules.empty())
    t.fail("capsule", "is missing", "add [[shape.capsule]] with from, to and radius");
  const double blend = t.quantity("blend", Dimension::length).value_or(least);
  return blend_capsules(name, capsules, blend,
                        t.quantity("cell", Dimension::length).value_or(0.15 * least));
}

Surface read_wing(Table& t, const std::string& name, const std::filesystem::path& folder) {
  WingShape w;
  w.part = name;
  const std::string code = t.text("section", ""), file = t.text("section_file", "");
  if (code.empty() == file.empty())
    t.fail("section", "and section_file: one of them is needed", "write section = \"4412\"");
  w.section = code.empty() ? read_aerofoil(std::filesystem::path(file).is_absolute()
                                               ? std::filesystem::path(file)
                                               : folder / file)
                           : four_digit_section(code);
  w.leading_edge = needed_place(t, "leading_edge");
  w.span = t.needed("span", Dimension::length);
  w.root_chord = t.needed("chord", Dimension::length);
  w.tip_chord = t.quantity("tip_chord", Dimension::length).value_or(w.root_chord);
  w.incidence = t.signed_quantity("incidence", Dimension::angle, 0);
  w.turned_over = t.flag("turned_over", true);
  w.sweep = t.signed_quantity("sweep", Dimension::angle, 0);
  w.dihedral = t.signed_quantity("dihedral", Dimension::angle, 0);
  if (t.has("end_plates")) {
    Table e = t.table("end_plates");
    EndPlates plates;
    plates.length = e.needed("length", Dimension::length),
    plates.height = e.needed("height", Dimension::length);
    plates.thickness = e.quantity("thickness", Dimension::length).value_or(plates.thickness);
    plates.ahead = e.signed_quantity("ahead", Dimension::length, 0),
    plates.above = e.signed_quantity("above", Dimension::length, 0);
    e.finish();
    w.end_plates = plates;
  }
  return make_wing(w);
}

Surface read_kind(Table& t, const std::string& name, const std::filesystem::path& folder) {
  const std::string kind =
      t.choice("kind", "", {"plate", "box", "cylinder", "loft", "revolution", "capsules", "wing"});
  if (kind == "plate")
    return plate(name, t.places("line"), needed_place(t, "extrusion"),
                 t.needed("thickness", Dimension::length));
  if (kind == "box") return read_box(t, name);
  if (kind == "cylinder")
    return cylinder(name, needed_place(t, "from"), needed_place(t, "to"),
                    t.needed("radius", Dimension::length));
  if (kind == "loft") return read_loft(t, name);
  if (kind == "revolution") return read_revolution(t, name);
  if (kind == "capsules") return read_capsules(t, name);
  return read_wing(t, name, folder);
}

}  // namespace

Surface read_shape(Table& t, const std::filesystem::path& folder) {
  const std::string name = t.text("name", "");
  if (name.empty()) t.fail("name", "is missing", "give each shape a name");
  Surface s = read_kind(t, name, folder);
  if (t.flag("both_sides", false)) append(s, mirrored(s));
  t.finish();
  return s;
}

}  // namespace dunefield
