#include <dunefield/mesh/octree/solid_field.hpp>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr double behind = 0.05;   // of a thickness: past rounding, short of the next wall
constexpr double one_wall = 0.8;  // cosine of the angle between normals

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

}  // namespace

SolidField::SolidField(const Surface& vehicle, const std::vector<int>& plinth_parts,
                       double plinth_height, const std::vector<int>& sheet_parts)
    : body_(select_parts(vehicle, flags(vehicle, plinth_parts, false)),
            sheet_flags(numbers(flags(vehicle, plinth_parts, false)), sheet_parts)),
      standing_(select_parts(vehicle, flags(vehicle, plinth_parts, true)),
                sheet_flags(numbers(flags(vehicle, plinth_parts, true)), sheet_parts)),
      body_parts_(numbers(flags(vehicle, plinth_parts, false))),
      standing_parts_(numbers(flags(vehicle, plinth_parts, true))),
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

/// Where there is air again behind a point of the body's surface, past walls of pieces that cross
/// it there. Nothing where that is further than `most`, as behind a fold or a sliver in the skin of
/// a thick body.
std::optional<SolidField::FarSide> SolidField::far_side(const SurfaceQuery& query,
                                                        const Vec3& start, const Vec3& inward,
                                                        double most) {
  const double skip = 1e-5 * most;
  for (double past = skip; past < most;) {
    const auto wall = query.first_crossing(start + inward * past, start + inward * most);
    if (!wall) break;
    const double depth = past + wall->distance;
    if (!query.inside(start + inward * (depth + behind * most)))
      return FarSide{depth, wall->normal};
    past = depth + skip;
  }
  return std::nullopt;
}

/// Whether a sheet, or a plate with air behind it, is hit that lies so near that half of
/// `least_thickness` from its middle reaches the place before it. @param sides which far sides make
/// a plate
bool SolidField::thin_behind(const SurfaceQuery& query, const SurfaceQuery::Hit& hit,
                             const Vec3& inward, double least_thickness, Sides sides) {
  if (is_sheet(query, hit, inward, {behind * least_thickness, least_thickness})) return true;
  const auto far = far_side(query, hit.point, inward, least_thickness);
  return far && hit.distance < 0.5 * (least_thickness - far->depth) &&
         (sides == Sides::any || std::abs(dot(far->normal, hit.normal)) > one_wall);
}

bool SolidField::in_thin_plate(const SurfaceQuery& query, const Vec3& p, double least_thickness) {
  if (!(least_thickness > 0)) return false;
  const double reach = 0.5 * least_thickness;
  const auto hit = query.nearest(p, reach);
  if (!hit) return false;
  // The way from the point on through the body tells the direction better than the triangle's
  // normal, which is anything on a sliver, and runs along the next face at an edge.
  const Vec3 way = hit->point - p;
  const bool apart = hit->distance > 1e-3 * least_thickness;
  const Vec3 inward = apart ? unit(way) : dot(hit->normal, way) < 0 ? -hit->normal : hit->normal;
  if (thin_behind(query, *hit, inward, least_thickness, Sides::any)) return true;
  // In a corner, or in a slit, an edge of the lattice may cross another wall than the nearest, or
  // that one where there is air behind it. A ridge of the nearest is no plate.
  const auto other_wall = [&](const SurfaceQuery::Hit& wall, const Vec3& along) {
    return std::abs(dot(wall.normal, hit->normal)) < one_wall || dot(along, inward) < 0;
  };
  for (const Vec3& axis : {Vec3{1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}})
    for (const Vec3& along : {axis, -axis})
      if (const auto wall = query.first_crossing(p, p + along * reach);
          wall && thin_behind(query, *wall, along, least_thickness,
                              other_wall(*wall, along) ? Sides::any : Sides::parallel))
        return true;
  return false;
}

bool SolidField::inside(const Vec3& p, double least_thickness) const {
  return body_.inside(p) || standing_.inside(lifted(p)) ||
         in_thin_plate(body_, p, least_thickness) ||
         in_thin_plate(standing_, lifted(p), least_thickness);
}

SolidField::Crossing SolidField::crossing_of(const SurfaceQuery::Hit& hit,
                                             const std::vector<int>& parts,
                                             const SurfaceQuery& query) const {
  return {hit.point, hit.normal, parts[at(query.surface().part_of[at(hit.triangle)])]};
}

SolidField::Crossing SolidField::crossing(const Vec3& air, const Vec3& solid,
                                          double least_thickness) const {
  const Vec3 way = solid - air;
  std::optional<Crossing> best;
  if (const auto hit = body_.first_crossing(air, solid))
    best = crossing_of(*hit, body_parts_, body_);
  const Vec3 a = lifted(air), b = lifted(solid);
  if (const auto hit = standing_.first_crossing(a, b)) {
    Crossing c = crossing_of(*hit, standing_parts_, standing_);
    const bool in_plinth = air.z < plinth_height_ && solid.z < plinth_height_;
    if (in_plinth) {
      c.point.z = air.z;
      c.normal = unit({c.normal.x, c.normal.y, 0});
    }
    if (!best || norm(c.point - air) < norm(best->point - air)) best = c;
  }
  if (!best) {
    // A hole is bridged, or a plate thickened: bisect the field itself.
    constexpr int halvings = 12;  // to 1 / 4096 of the way; each asks for several winding numbers
    double lo = 0, hi = 1;
    for (int i = 0; i < halvings; ++i) {
      const double middle = 0.5 * (lo + hi);
      (inside(air + way * middle, least_thickness) ? hi : lo) = middle;
    }
    constexpr double at_the_surface = 0.05;  // of the way: sign and ray differ by rounding there
    best = Crossing{air + way * hi, unit(-way), 0, true};
    if (const auto near = project(best->point, 2 * norm(way), -way)) {
      best->part = near->part, best->normal = near->normal;
      best->assumed = norm(near->point - best->point) > at_the_surface * norm(way) &&
                      inside(solid, least_thickness);
    }
  }
  if (dot(best->normal, way) > 0) best->normal = -best->normal;
  return *best;
}

std::optional<SolidField::Crossing> SolidField::project(const Vec3& p, double reach,
                                                        const Vec3& outward) const {
  std::optional<Crossing> best;
  double distance = reach;
  if (const auto hit = body_.nearest(p, reach))
    best = crossing_of(*hit, body_parts_, body_), distance = hit->distance;
  const Vec3 up = lifted(p);
  if (const auto hit = standing_.nearest(up, distance)) {
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

bool SolidField::surface_near(const Vec3& p, double reach) const {
  return body_.within(p, reach) || standing_.within(lifted(p), reach);
}

}  // namespace dunefield
