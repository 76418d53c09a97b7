#include <dunefield/mesh/octree/solid_field.hpp>

#include <algorithm>
#include <array>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr double past_wall = 0.05;       // of a thickness: past rounding, short of the next wall
constexpr double off_sheet = 0.15;       // of a cell: how far off a curved sheet its plane is
constexpr double facing_away = 0.3;      // cosine to the side that is looked for
constexpr double opposite_sides = -0.5;  // cosine between the outer normals of a plate's two sides

std::vector<bool> flags(const Surface& s, const std::vector<int>& parts, bool value) {
  std::vector<bool> keep(s.part_names.size(), !value);
  for (const int p : parts) keep[at(p)] = value;
  return keep;
}

std::vector<int> numbers(const std::vector<bool>& keep) {
  std::vector<int> out;
  for (std::size_t i = 0; i < keep.size(); ++i)
    if (keep[i]) out.push_back(static_cast<int>(i));
  return out;
}

/// For each of some parts of the vehicle: is it a sheet?
std::vector<char> sheet_flags(const std::vector<int>& parts, const std::vector<int>& sheets) {
  std::vector<char> out;
  for (const int p : parts)
    out.push_back(std::find(sheets.begin(), sheets.end(), p) != sheets.end());
  return out;
}

/// Four directions across another one, which with their opposites are evenly spread.
std::array<Vec3, 4> half_turn_about(const Vec3& axis) {
  const Vec3 aside = std::abs(axis.x) < 0.6 ? Vec3{1, 0, 0} : Vec3{0, 1, 0};
  const Vec3 u = unit(cross(axis, aside)), v = cross(axis, u);
  return {u, v, unit(u + v), unit(u - v)};
}

/// For each triangle how large the connected piece is that it belongs to: its box's diagonal, m.
std::vector<double> piece_sizes(const Surface& s) {
  const Pieces pieces = connected_pieces(s);
  std::vector<Box> box(at(pieces.count));
  for (std::size_t t = 0; t < s.size(); ++t)
    for (int k = 0; k < 3; ++k) box[at(pieces.of_triangle[t])].include(s.corner(t, k));
  std::vector<double> size(s.size());
  for (std::size_t t = 0; t < s.size(); ++t) size[t] = norm(box[at(pieces.of_triangle[t])].size());
  return size;
}

}  // namespace

SolidField::SolidField(const Surface& vehicle, const std::vector<int>& plinth_parts,
                       double plinth_height, const std::vector<int>& sheet_parts)
    : body_(select_parts(vehicle, flags(vehicle, plinth_parts, false)),
            sheet_flags(numbers(flags(vehicle, plinth_parts, false)), sheet_parts)),
      standing_(select_parts(vehicle, flags(vehicle, plinth_parts, true)),
                sheet_flags(numbers(flags(vehicle, plinth_parts, true)), sheet_parts)),
      body_parts_(numbers(flags(vehicle, plinth_parts, false))),
      standing_parts_(numbers(flags(vehicle, plinth_parts, true))),
      body_piece_size_(piece_sizes(body_.surface())),
      standing_piece_size_(piece_sizes(standing_.surface())),
      plinth_height_(plinth_height),
      bounds_(dunefield::bounds(vehicle)) {
  // the plinth goes down to the road and on
  if (!plinth_parts.empty()) bounds_.lo.z = std::min(bounds_.lo.z, -plinth_height);
}

/// A sheet has air on both sides; the skin of a torn body has not. Beside sheets that half enclose
/// a place, as a hoop of three does, a film of it counts as inside, which no wall ends.
bool SolidField::is_sheet(const SurfaceQuery& query, const SurfaceQuery::Hit& hit,
                          const Vec3& across, const Beside& beside) {
  if (!query.is_open(hit.triangle)) return false;
  const auto air_towards = [&](const Vec3& way) {
    const auto at_depth = [&](double depth) { return hit.point + way * depth; };
    if (!query.inside(at_depth(beside.near))) return true;
    const Vec3 far = at_depth(beside.far);
    return !query.inside(far) && !query.first_crossing(at_depth(0.1 * beside.near), far);
  };
  return air_towards(across) && air_towards(-across);
}

bool SolidField::is_sheet(const Vec3& p, const Beside& beside) const {
  for (const SurfaceQuery* query : {&body_, &standing_}) {
    if (!query->any_open()) continue;
    const auto hit = query->nearest(p, beside.near);
    if (!hit) continue;
    const bool turned = query->shells().turned[at(hit->triangle)];
    // The inner side of a skin first: it tells that there is no sheet.
    if (is_sheet(*query, *hit, turned ? hit->normal : -hit->normal, beside)) return true;
  }
  return false;
}

/// How far behind a point of the body's surface there is air again, past walls of pieces that cross
/// it there. Nothing where that is further than `most`, as behind a fold or a sliver in the skin of
/// a thick body.
std::optional<double> SolidField::far_side(const SurfaceQuery& query, const Vec3& start,
                                           const Vec3& inward, double most) {
  const double skip = 1e-5 * most;
  for (double past = skip; past < most;) {
    const auto wall = query.first_crossing(start + inward * past, start + inward * most);
    if (!wall) break;
    const double depth = past + wall->distance;
    if (!query.inside(start + inward * (depth + past_wall * most))) return depth;
    past = depth + skip;
  }
  return std::nullopt;
}

/// Whether a sheet or a plate ends within `most` in some direction along itself: a rod or a strip.
/// @param inner on return a place further in
bool SolidField::is_narrow_at(const SurfaceQuery& query, const Vec3 from, const Vec3& across,
                              bool sheet, double most, Vec3& inner) {
  const auto reach = [&](const Vec3& way) -> double {
    if (!sheet) return far_side(query, from, way, most).value_or(most);
    constexpr int steps = 6;
    for (int i = 1; i <= steps; ++i)
      if (!query.within(from + way * (most * i / steps), off_sheet * most))
        return most * (i - 0.5) / steps;
    return most;
  };
  bool narrow = false;
  double longest = 0;
  for (const Vec3& axis : half_turn_about(across)) {
    const double ahead = reach(axis), behind = reach(-axis);
    narrow = narrow || ahead + behind < most;
    if (std::max(ahead, behind) <= longest) continue;
    longest = std::max(ahead, behind);
    inner = from + (ahead > behind ? axis : -axis) * (0.5 * longest);
  }
  return narrow;
}

/// The same, also half of `most` further in: the corner of a wide plate is none.
bool SolidField::is_narrow(const SurfaceQuery& query, const Vec3& middle, const Vec3& across,
                           bool sheet, double most) {
  Vec3 inner = middle;
  return is_narrow_at(query, middle, across, sheet, most, inner) &&
         is_narrow_at(query, inner, across, sheet, most, inner);
}

/// Normals of the sides of a thin thing around a place within, each once.
std::vector<Vec3> SolidField::sides_around(const SurfaceQuery& query, const Vec3& middle,
                                           double most) {
  constexpr double same = 0.9;  // cosine
  std::vector<Vec3> normals;
  for (int i = 0; i < 27; ++i) {
    const int x = i % 3 - 1, y = i / 3 % 3 - 1, z = i / 9 - 1;
    if (x == 0 && y == 0 && z == 0) continue;
    const Vec3 way = unit({1.0 * x, 1.0 * y, 1.0 * z});
    const auto wall = query.first_crossing(middle, middle + way * most);
    if (wall && std::none_of(normals.begin(), normals.end(),
                             [&](const Vec3& n) { return std::abs(dot(n, wall->normal)) > same; }))
      normals.push_back(wall->normal);
  }
  return normals;
}

/// Whether a rod or a strip passes so near that a cell's cube about the place holds some of it: the
/// cubes along it then touch side by side, however it runs. A piece smaller than the cell is none.
bool SolidField::in_thin_rod(const Solids& of, const Vec3& p, double cell) {
  if (!(cell > 0)) return false;
  const SurfaceQuery& query = of.query;
  const auto hit = query.nearest(p, std::sqrt(3.0) / 2 * cell);
  if (!hit || of.piece_size[at(hit->triangle)] < cell) return false;
  // The way from the point on through the body tells the direction better than the triangle's
  // normal, which is anything on a sliver, and runs along the next face at an edge.
  const Vec3 way = hit->point - p;
  if (std::max({std::abs(way.x), std::abs(way.y), std::abs(way.z)}) > 0.5 * cell) return false;
  const bool apart = hit->distance > 1e-3 * cell;
  const Vec3 inward = apart ? unit(way) : dot(hit->normal, way) < 0 ? -hit->normal : hit->normal;
  if (const auto depth = far_side(query, hit->point, inward, cell)) {
    // A plate is narrow along its rim's normal, but not seen through its own sides.
    const Vec3 middle = hit->point + inward * (0.5 * *depth);
    const std::vector<Vec3> sides = sides_around(query, middle, cell);
    return std::all_of(sides.begin(), sides.end(), [&](const Vec3& across) {
      return is_narrow(query, middle, across, false, cell);
    });
  }
  return is_sheet(query, *hit, hit->normal, {past_wall * cell, cell}) &&
         is_narrow(query, hit->point, hit->normal, true, cell);
}

bool SolidField::inside(const Vec3& p, double cell) const {
  return body_.inside(p) || standing_.inside(lifted(p)) ||
         in_thin_rod({body_, body_piece_size_}, p, cell) ||
         in_thin_rod({standing_, standing_piece_size_}, lifted(p), cell);
}

bool SolidField::thin_wall_between(const SurfaceQuery& query, const Vec3& a, const Vec3& b) {
  const auto first = query.first_crossing(a, b);
  if (!first) return false;
  const auto last = query.first_crossing(b, a);
  if (!last) return true;
  const auto facing = [](const Vec3& normal, const Vec3& to) {
    return dot(normal, to) < 0 ? -normal : normal;
  };
  if (dot(facing(first->normal, a - b), facing(last->normal, b - a)) < opposite_sides) return true;
  // Through a ridge the way goes in and out; through a torn corner it may only go in.
  const Vec3 way = unit(b - a);
  const double skip = 1e-5 * norm(b - a);
  int walls = 0;
  for (auto wall = first; wall && walls < 8; ++walls)
    wall = query.first_crossing(wall->point + way * skip, b);
  return walls % 2 == 1;
}

bool SolidField::thin_wall_between(const Vec3& a, const Vec3& b) const {
  return thin_wall_between(body_, a, b) || thin_wall_between(standing_, lifted(a), lifted(b));
}

SolidField::Crossing SolidField::crossing_of(const SurfaceQuery::Hit& hit,
                                             const std::vector<int>& parts,
                                             const SurfaceQuery& query) const {
  return {hit.point, hit.normal, parts[at(query.surface().part_of[at(hit.triangle)])]};
}

SolidField::Crossing SolidField::crossing(const Vec3& air, const Vec3& end, double cell) const {
  const Vec3 way = end - air;
  std::optional<Crossing> best;
  if (const auto hit = body_.first_crossing(air, end)) best = crossing_of(*hit, body_parts_, body_);
  const Vec3 a = lifted(air), b = lifted(end);
  if (const auto hit = standing_.first_crossing(a, b)) {
    Crossing c = crossing_of(*hit, standing_parts_, standing_);
    const bool in_plinth = air.z < plinth_height_ && end.z < plinth_height_;
    if (in_plinth) {
      c.point.z = air.z;
      c.normal = unit({c.normal.x, c.normal.y, 0});
    }
    if (!best || norm(c.point - air) < norm(best->point - air)) best = c;
  }
  if (!best && !inside(end, cell) && !surface_near(end, norm(way))) {
    // What lies beyond was closed, though air.
    best = Crossing{air + way * 0.5, unit(-way), 0, true};
    if (const auto near = project(best->point, 4 * norm(way), unit(-way))) best->part = near->part;
  } else if (!best) {
    // A hole is bridged, or a rod thickened: bisect the field itself.
    constexpr int halvings = 12;  // to 1 / 4096 of the way; each asks for several winding numbers
    double lo = 0, hi = 1;
    for (int i = 0; i < halvings; ++i) {
      const double middle = 0.5 * (lo + hi);
      (inside(air + way * middle, cell) ? hi : lo) = middle;
    }
    constexpr double at_the_surface = 0.05;  // of the way: sign and ray differ by rounding there
    best = Crossing{air + way * hi, unit(-way), 0, true};
    if (const auto near = project(best->point, 2 * norm(way), -way)) {
      best->part = near->part, best->normal = near->normal;
      best->assumed =
          norm(near->point - best->point) > at_the_surface * norm(way) && inside(end, cell);
    }
  }
  if (dot(best->normal, way) > 0) best->normal = -best->normal;
  return *best;
}

/// The nearest surface point; in a plate so thin that its other side is nearer than the one that
/// faces `outward`, the latter.
std::optional<SurfaceQuery::Hit> SolidField::nearest_facing(const SurfaceQuery& query,
                                                            const Vec3& p, double reach,
                                                            const Vec3& outward) {
  const auto hit = query.nearest(p, reach);
  const auto faces_away = [&](const SurfaceQuery::Hit& h) {
    const bool turned = query.shells().turned[at(h.triangle)];
    return !query.shells().sheet[at(h.triangle)] &&
           dot(turned ? -h.normal : h.normal, outward) < -facing_away;
  };
  if (!hit || !faces_away(*hit)) return hit;
  const double skip = 1e-5 * reach;
  double past = 0;
  for (int walls = 0; walls < 4 && past < reach; ++walls) {
    auto wall = query.first_crossing(p + outward * past, p + outward * reach);
    if (!wall) break;
    wall->distance += past;
    if (!faces_away(*wall)) return wall;
    past = wall->distance + skip;
  }
  return hit;
}

std::optional<SolidField::Crossing> SolidField::project(const Vec3& p, double reach,
                                                        const Vec3& outward) const {
  std::optional<Crossing> best;
  double distance = reach;
  if (const auto hit = nearest_facing(body_, p, reach, outward))
    best = crossing_of(*hit, body_parts_, body_), distance = hit->distance;
  const Vec3 up = lifted(p);
  if (const auto hit = nearest_facing(standing_, up, distance, outward)) {
    best = crossing_of(*hit, standing_parts_, standing_);
    if (p.z < plinth_height_) {
      // On the plinth only the plan position moves: onto the outline at the plinth's height.
      const Vec3 level = unit({best->normal.x, best->normal.y, 0});
      const double slope = dot(level, best->normal);
      if (slope > 0.2) best->point = up + level * (dot(best->point - up, best->normal) / slope);
      best->point.z = p.z;
      best->normal = level;
    }
  }
  if (best && dot(best->normal, outward) < 0) best->normal = -best->normal;
  return best;
}

std::optional<Vec3> SolidField::plate_end(const Vec3& middle, const Vec3& across,
                                          double most) const {
  std::optional<Vec3> end;
  for (const SurfaceQuery* query : {&body_, &standing_}) {
    if (!query->inside(middle)) continue;
    for (const Vec3& axis : half_turn_about(across))
      for (const Vec3& way : {axis, -axis})
        if (const auto wall = query->first_crossing(middle, middle + way * most))
          most = wall->distance, end = wall->point;
  }
  return end;
}

double SolidField::clearance(const Vec3& p, double most) const {
  if (const auto hit = body_.nearest(p, most)) most = hit->distance;
  if (const auto hit = standing_.nearest(lifted(p), most)) most = hit->distance;
  return most;
}

bool SolidField::surface_near(const Vec3& p, double reach) const {
  return body_.within(p, reach) || standing_.within(lifted(p), reach);
}

}  // namespace dunefield
