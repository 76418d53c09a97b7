#include <dunefield/campaign/changes.hpp>

#include <set>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/health/mending.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield {
namespace {

std::vector<bool> all_but(const Surface& s, int part) {
  std::vector<bool> keep(s.part_names.size(), true);
  keep[at(part)] = false;
  return keep;
}

Surface only(const Surface& s, int part) {
  std::vector<bool> keep(s.part_names.size(), false);
  keep[at(part)] = true;
  Surface out = select_parts(s, keep);
  drop_unused_points(out);
  return out;
}

void add_shapes(const Campaign& c, const std::vector<std::string>& names, Surface& s,
                const std::string& whose) {
  for (const auto& name : names) {
    const auto it = std::find_if(c.shapes.begin(), c.shapes.end(),
                                 [&](const Surface& shape) { return shape.part_names[0] == name; });
    if (it == c.shapes.end())
      throw InputError(
          fmt::format("{} names the shape '{}', which no [[shape]] describes", whose, name),
          c.file.string(), "check its name");
    if (s.find_part(name) >= 0)
      throw InputError(
          fmt::format("{} adds the shape '{}', but there is already a part of that name", whose,
                      name),
          c.file.string(), "rename it");
    Surface shape = *it;
    scale(shape, c.placing.scale);
    append(s, shape);
  }
}

void close_opening(Surface& s, const Change& change, double model_scale, Findings& findings) {
  const Vec3 near = change.vector * model_scale;
  const auto loops = open_loops(s);
  const EdgeLoop* best = nullptr;
  double least = 1e300;
  for (const EdgeLoop& loop : loops)
    for (const int p : loop.points)
      if (const double d = norm(s.points[at(p)] - near); loop.closed && d < least)
        least = d, best = &loop;
  if (!best)
    throw InputError("there is no open loop to close", change.where,
                     "see inspect for the openings");
  // Where a rim touches itself it is several loops: all of them belong to the opening.
  std::set<int> rim(best->points.begin(), best->points.end());
  std::vector<const EdgeLoop*> opening = {best};
  for (bool grown = true; grown;) {
    grown = false;
    for (const EdgeLoop& loop : loops) {
      if (!loop.closed || std::find(opening.begin(), opening.end(), &loop) != opening.end())
        continue;
      if (std::none_of(loop.points.begin(), loop.points.end(),
                       [&](int p) { return rim.contains(p); }))
        continue;
      opening.push_back(&loop), rim.insert(loop.points.begin(), loop.points.end()), grown = true;
    }
  }
  for (const EdgeLoop* loop : opening) close_loop(s, *loop, change.name);
  findings.note(fmt::format(
      "an opening {:.3f} m across, {:.3f} m from the place named, is closed by the part '{}'",
      best->size, least, change.name));
}

void reshape(Surface& s, const Change& change, int part, double model_scale) {
  ShapeChange shape = change.shape;
  const bool whole = shape.box.empty();
  shape.box = whole ? part < 0 ? bounds(s) : bounds(s, part)
                    : Box{shape.box.lo * model_scale, shape.box.hi * model_scale};
  shape.rim *= model_scale;
  if (shape.kind == ShapeChange::Kind::stretch) shape.amount *= model_scale;
  for (ShapeChange::Move& m : shape.moves) m.by = m.by * model_scale;
  apply(shape, s, part, change.where);
}

bool moves_points(const Change& change) {
  return change.kind == Change::Kind::move || change.kind == Change::Kind::turn ||
         change.kind == Change::Kind::scale;
}

/// In place, so that the facets stay in order and a mesh can follow them.
void move_points(Surface& s, const Change& change, int part, double model_scale) {
  Surface own = only(s, part);
  const Vec3 about = change.about ? *change.about * model_scale : bounds(own).centre();
  if (change.kind == Change::Kind::move)
    translate(own, change.vector * model_scale);
  else if (change.kind == Change::Kind::turn)
    rotate(own, about, change.vector, change.amount);
  else
    for (Vec3& p : own.points) p = about + (p - about) * change.amount;
  const int offset = static_cast<int>(s.points.size());
  s.points.insert(s.points.end(), own.points.begin(), own.points.end());
  std::size_t next = 0;  // the part's facets are in the same order
  for (std::size_t t = 0; t < s.size(); ++t) {
    if (s.part_of[t] != part) continue;
    for (std::size_t k = 0; k < 3; ++k) s.triangles[t][k] = own.triangles[next][k] + offset;
    ++next;
  }
}

void apply(Surface& s, const Change& change, const Campaign& c, Findings& findings) {
  if (change.kind == Change::Kind::close)
    return close_opening(s, change, c.placing.scale, findings);
  if (change.kind == Change::Kind::open) {
    std::size_t kept = 0;
    const Box region{change.region.lo * c.placing.scale, change.region.hi * c.placing.scale};
    for (std::size_t t = 0; t < s.size(); ++t) {
      const bool out = region.contains(s.centroid(t)) &&
                       (change.part.empty() || s.part_names[at(s.part_of[t])] == change.part);
      if (!out) s.triangles[kept] = s.triangles[t], s.part_of[kept++] = s.part_of[t];
    }
    if (kept == s.size())
      throw InputError("no facet lies in the region to open", change.where, "check its corners");
    findings.note(fmt::format("{} facets taken away to open a region", s.size() - kept));
    s.triangles.resize(kept), s.part_of.resize(kept);
    return;
  }
  const int part = change.part.empty() ? -1 : s.find_part(change.part);
  if (part < 0 && !(change.part.empty() && change.kind == Change::Kind::reshape))
    throw InputError("there is no part named '" + change.part + "'", change.where,
                     "check the part's name with inspect");
  if (change.kind == Change::Kind::reshape) return reshape(s, change, part, c.placing.scale);
  if (moves_points(change)) return move_points(s, change, part, c.placing.scale);
  Surface own = only(s, part);
  switch (change.kind) {
    case Change::Kind::mirror: {
      Surface image = mirrored(own);
      if (!change.copy)
        own = image;
      else
        append(own, image);
      break;
    }
    case Change::Kind::replace: {
      own = read_upright({change.file}, c.placing);
      own.part_names = {change.part};
      std::fill(own.part_of.begin(), own.part_of.end(), 0);
      break;
    }
    default: break;
  }
  s = select_parts(s, all_but(s, part));
  append(s, own);
}

}  // namespace

Surface base_surface(const Campaign& c) {
  Surface s = read_upright(c.surfaces, c.placing);
  append(s, upright(c.surface, c.placing));
  add_shapes(c, c.shapes_of_vehicle, s, "the vehicle");
  return s;
}

Surface variant_surface(const Campaign& c, const Campaign::Variant& v, const Surface& base,
                        Findings& findings) {
  Surface s = base;
  if (!v.remove.empty()) {
    std::vector<bool> keep(s.part_names.size(), true);
    for (const auto& name : v.remove) {
      const int p = s.find_part(name);
      if (p < 0)
        throw InputError(
            fmt::format("variant '{}' removes part '{}', which does not exist", v.name, name),
            c.file.string(), "check the part's name with inspect");
      keep[at(p)] = false;
    }
    s = select_parts(s, keep);
  }
  if (!v.add.empty()) append(s, read_upright(v.add, c.placing));
  append(s, upright(v.surface, c.placing));
  add_shapes(c, v.shapes, s, "variant '" + v.name + "'");
  if (s.size() == 0 && !v.remove.empty())
    throw InputError(fmt::format("variant '{}' removes every part", v.name), c.file.string(),
                     "leave one, or add others");
  for (const Change& change : v.changes) apply(s, change, c, findings);
  drop_unused_points(s);
  return s;
}

}  // namespace dunefield
