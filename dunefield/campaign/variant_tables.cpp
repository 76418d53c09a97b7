#include <dunefield/campaign/variant_tables.hpp>

#include <algorithm>
#include <cmath>
#include <set>

namespace dunefield {

namespace fs = std::filesystem;

std::vector<fs::path> files_beside(const fs::path& file, const std::vector<std::string>& names) {
  std::vector<fs::path> out;
  for (const auto& n : names)
    out.push_back(fs::path(n).is_absolute() ? fs::path(n) : file.parent_path() / n);
  return out;
}

Ride read_ride(Table t) {
  Ride ride;
  ride.front = t.signed_quantity("front", Dimension::length, 0);
  ride.rear = t.signed_quantity("rear", Dimension::length, 0);
  ride.pitch = t.signed_quantity("pitch", Dimension::angle, 0);
  if (std::abs(ride.pitch) > 0.3) t.fail("pitch", "is over 17 degrees", "check its unit");
  t.finish();
  return ride;
}

namespace {

/// "x" or "-x": the way in which a change of shape grows.
void read_growth(Table& t, ShapeChange& shape) {
  const std::string along = t.choice("along", "x", {"x", "y", "z", "-x", "-y", "-z"});
  shape.along = along.back() - 'x', shape.backward = along.front() == '-';
}

void read_control_points(Table& t, ShapeChange& shape) {
  constexpr double most = 9;  // polynomials of a higher degree swing
  if (const auto counts = t.numbers("points"); !counts.empty()) {
    if (counts.size() != 3 || std::any_of(counts.begin(), counts.end(), [](double n) {
          return n != std::floor(n) || n < 2 || n > most;
        }))
      t.fail("points", "are not three whole numbers from 2 to 9", "write [3, 2, 2]");
    for (std::size_t i = 0; i < 3; ++i) shape.counts[i] = static_cast<int>(counts[i]);
  }
  for (Table& one : t.tables("control")) {
    ShapeChange::Move move;
    const auto point = one.numbers("point");
    for (std::size_t i = 0; i < 3; ++i) {
      if (point.size() != 3 || point[i] != std::floor(point[i]) || point[i] < 0 ||
          point[i] >= shape.counts[i])
        one.fail("point", "is no point of the lattice",
                 fmt::format("write three numbers, from 0 to {}, {} and {}", shape.counts[0] - 1,
                             shape.counts[1] - 1, shape.counts[2] - 1));
      move.point[i] = static_cast<int>(point[i]);
    }
    move.by = one.place("move");
    one.finish();
    shape.moves.push_back(move);
  }
}

/// What all changes of a shape have in common.
void read_region(Table& t, ShapeChange& shape) {
  if (t.has("box")) {
    const auto corners = t.places("box");
    if (corners.size() != 2)
      t.fail("box", "is not two corners",
             "write box = [[\"0 m\", \"0 m\", \"0 m\"], [\"1 m\", \"1 m\", \"1 m\"]]");
    for (const Vec3& p : corners) shape.box.include(p);
  }
  shape.rim = t.quantity("rim", Dimension::length).value_or(0);
}

/// One change of a variant: exactly one of the things that can be done.
Change read_change(Table t, const Campaign& c) {
  Change change;
  change.where = t.where_it_stands();
  change.part = t.text("part", "");
  int actions = 0;
  const auto action = [&](const char* key, Change::Kind kind) {
    if (!t.has(key)) return false;
    ++actions;
    change.kind = kind;
    return true;
  };
  if (action("move", Change::Kind::move)) change.vector = t.place("move");
  if (action("turn", Change::Kind::turn)) {
    change.amount = t.signed_quantity("turn", Dimension::angle, 0);
    change.vector = unit(t.direction("axis", {0, 1, 0}));
    if (t.has("about")) change.about = t.place("about");
  }
  if (action("scale", Change::Kind::scale)) {
    change.amount = t.number("scale", 1, 1e-6);
    if (t.has("about")) change.about = t.place("about");
  }
  using Shape = ShapeChange::Kind;
  const auto reshape = [&](const char* key, Shape kind) {
    if (!action(key, Change::Kind::reshape)) return false;
    change.shape.kind = kind;
    read_region(t, change.shape);
    if (kind == Shape::control)
      read_control_points(t, change.shape);
    else
      read_growth(t, change.shape);
    return true;
  };
  if (reshape("stretch", Shape::stretch))
    change.shape.amount = t.signed_quantity("stretch", Dimension::length, 0);
  if (reshape("taper", Shape::taper)) change.shape.amount = t.number("taper", 1, 0.01);
  if (reshape("bend", Shape::bend)) {
    change.shape.amount = t.signed_quantity("bend", Dimension::angle, 0);
    change.shape.axis = unit(t.direction("axis", {0, 1, 0}));
  }
  if (reshape("twist", Shape::twist))
    change.shape.amount = t.signed_quantity("twist", Dimension::angle, 0);
  reshape("control", Shape::control);
  if (action("mirror", Change::Kind::mirror))
    change.copy = t.choice("mirror", "copy", {"copy", "move"}) == "copy";
  if (action("replace", Change::Kind::replace))
    change.file = files_beside(c.file, {t.text("replace", "")})[0];
  if (action("close", Change::Kind::close)) {
    change.vector = t.place("close");
    change.name = t.text("name", "closed opening");
  }
  if (action("open", Change::Kind::open)) {
    const auto corners = t.places("open");
    if (corners.size() != 2)
      t.fail("open", "must be the two corners of a box",
             "write open = [[\"0 m\", \"0 m\", \"0 m\"], [\"1 m\", \"1 m\", \"1 m\"]]");
    for (const Vec3& p : corners) change.region.include(p);
  }
  if (actions != 1)
    t.fail("part", fmt::format("names {} changes at once", actions),
           "give each [[variant.change]] one of move, turn, scale, stretch, taper, bend, twist, "
           "control, mirror, replace, close, open");
  const bool needs_part = change.kind != Change::Kind::close && change.kind != Change::Kind::open &&
                          change.kind != Change::Kind::reshape;
  if (needs_part && change.part.empty()) t.fail("part", "is missing", "name the part to change");
  t.finish();
  return change;
}

}  // namespace

void read_variants(std::vector<Table> tables, Campaign& c) {
  std::set<std::string> names;
  for (Table& t : tables) {
    Campaign::Variant v;
    v.name = t.new_name(names);
    v.add = files_beside(c.file, t.texts("add"));
    v.remove = t.texts("remove");
    for (std::size_t i = 0; i < v.remove.size(); ++i)
      if (std::find(v.remove.begin(), v.remove.begin() + static_cast<std::ptrdiff_t>(i),
                    v.remove[i]) != v.remove.begin() + static_cast<std::ptrdiff_t>(i))
        t.fail("remove", "lists '" + v.remove[i] + "' twice", "list it once");
    v.shapes = t.texts("shapes"), v.vehicles = t.texts("vehicles");
    if (t.has("devices")) v.devices = t.texts("devices");
    for (Table& change : t.tables("change")) v.changes.push_back(read_change(change, c));
    v.ride = read_ride(t.table("ride"));
    if (const std::string mesh = t.text("mesh", ""); !mesh.empty())
      v.mesh = files_beside(c.file, {mesh})[0];
    t.finish();
    c.variants.push_back(v);
  }
  if (c.variants.empty()) {
    c.variants.emplace_back();
    c.variants.back().name = "as it is";
  }
}

}  // namespace dunefield
