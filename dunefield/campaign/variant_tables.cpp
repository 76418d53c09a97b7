#include <dunefield/campaign/variant_tables.hpp>

#include <algorithm>
#include <cmath>
#include <set>

namespace dunefield {

namespace fs = std::filesystem;

std::vector<fs::path> beside(const fs::path& file, const std::vector<std::string>& names) {
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
  if (action("mirror", Change::Kind::mirror))
    change.copy = t.choice("mirror", "copy", {"copy", "move"}) == "copy";
  if (action("replace", Change::Kind::replace))
    change.file = beside(c.file, {t.text("replace", "")})[0];
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
           "give each [[variant.change]] one of move, turn, scale, mirror, replace, close, open");
  const bool needs_part = change.kind != Change::Kind::close && change.kind != Change::Kind::open;
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
    v.add = beside(c.file, t.texts("add"));
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
      v.mesh = beside(c.file, {mesh})[0];
    t.finish();
    c.variants.push_back(v);
  }
  if (c.variants.empty()) {
    c.variants.emplace_back();
    c.variants.back().name = "as it is";
  }
}

}  // namespace dunefield
