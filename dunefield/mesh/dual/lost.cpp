#include <dunefield/mesh/dual/lost.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/query/sampling.hpp>
#include <dunefield/mesh/section.hpp>
#include <dunefield/mesh/wall_triangles.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double samples_per_leaf = 4;    // in a square of the surface's leaf
const Vec3 away = unit({0.12, 0.31, 1});  // from road and centre plane, where walls are open

struct Sample {
  Vec3 point, normal;
  int part = 0;
  double area = 0;
};

/// Evenly spread; pieces too small for one get one of their own.
std::vector<Sample> samples_of(const Surface& s, double surface_size) {
  const double total = total_area(s);
  const auto spread = sample_surface(
      s, static_cast<std::size_t>(
             std::clamp(samples_per_leaf * total / (surface_size * surface_size), 1000.0, 1e6)));
  const Pieces pieces = connected_pieces(s);
  std::vector<char> sampled(at(pieces.count), 0);
  std::vector<Sample> out;
  for (const SurfaceSample& p : spread) {
    out.push_back({p.point, unit(s.area_vector(at(p.triangle))), s.part_of[at(p.triangle)],
                   total / static_cast<double>(spread.size())});
    sampled[at(pieces.of_triangle[at(p.triangle)])] = 1;
  }
  std::vector<int> own(at(pieces.count), -1);
  for (std::size_t t = 0; t < s.size(); ++t) {
    const std::size_t piece = at(pieces.of_triangle[t]);
    if (sampled[piece]) continue;
    if (own[piece] < 0)
      own[piece] = static_cast<int>(out.size()),
      out.push_back({s.centroid(t), unit(s.area_vector(t)), s.part_of[t], 0});
    out[at(own[piece])].area += norm(s.area_vector(t));
  }
  return out;
}

/// The walls of the whole vehicle: those of a half model end at the centre plane, and a ray beside
/// it would leave a closed body there.
Surface with_other_half(const Surface& walls, const VolumeMesh& m) {
  Surface whole = walls;
  if (std::none_of(m.boundaries.begin(), m.boundaries.end(), [](const Boundary& b) {
        return b.kind == BoundaryKind::centre_plane && b.count > 0;
      }))
    return whole;
  const int points = static_cast<int>(walls.points.size());
  for (const Vec3& p : walls.points) whole.points.push_back({p.x, -p.y, p.z});
  for (std::size_t t = 0; t < walls.size(); ++t) {
    const auto& [a, b, c] = walls.triangles[t];
    whole.triangles.push_back({a + points, c + points, b + points});
    whole.part_of.push_back(walls.part_of[t]);
  }
  return whole;
}

/// The vehicle's walls in a mesh, and on which side of them a point lies.
struct MeshedWalls {
  WallTriangles walls;
  Surface whole;
  RayScene rays;
  Box meshed;

  explicit MeshedWalls(const VolumeMesh& m)
      : walls(wall_triangles(m, [](const Boundary& p) { return p.kind == BoundaryKind::part; })),
        whole(with_other_half(walls.surface, m)),
        rays(whole) {
    for (const Vec3& p : m.points) meshed.include(p);
  }
  /// Whether the first wall on the way is met from the air: its triangles face out of it.
  bool met_from_air(const RayScene::Hit& hit, const Vec3& way) const {
    return dot(whole.area_vector(at(hit.triangle)), way) > 0;
  }
  bool in_air(const Vec3& p) const {
    const auto hit = rays.first_crossing(p, p + away * norm(meshed.size()));
    return !hit || met_from_air(*hit, away);
  }
};

/// By part, the largest area first.
std::vector<LostPiece> by_part(const std::vector<Sample>& samples, const std::vector<char>& counts,
                               const std::vector<std::string>& names) {
  std::vector<LostPiece> of_part(names.size());
  for (std::size_t i = 0; i < samples.size(); ++i) {
    if (!counts[i]) continue;
    LostPiece& piece = of_part[at(samples[i].part)];
    if (piece.area == 0) piece.part = names[at(samples[i].part)], piece.place = samples[i].point;
    piece.area += samples[i].area;
  }
  std::erase_if(of_part, [](const LostPiece& p) { return p.area == 0; });
  std::stable_sort(of_part.begin(), of_part.end(),
                   [](const LostPiece& a, const LostPiece& b) { return a.area > b.area; });
  return of_part;
}

/// Whether air of the mesh leads from a point between the sides of a plate out of both.
bool leads_through(const Vec3& middle, const Vec3& to_side, const MeshedWalls& mesh,
                   double beyond) {
  const Vec3 out = to_side + unit(to_side) * beyond;
  return !mesh.rays.blocked(middle + out, middle - out);
}

/// Directions in a plane, evenly spread.
std::array<Vec3, 8> ways_around(const Vec3& normal) {
  const PlaneAxes axes(normal);
  std::array<Vec3, 8> ways;
  for (std::size_t k = 0; k < ways.size(); ++k) {
    const double angle = 2 * std::numbers::pi * static_cast<double>(k) / ways.size();
    ways[k] = axes.across * std::cos(angle) + axes.up * std::sin(angle);
  }
  return ways;
}

/// Whether walls of the mesh stand all around a point between the sides of a plate, each before the
/// plate ends. @param goes_on whether there is plate at a point
template <class GoesOn>
bool walled_in(const Vec3& middle, const Vec3& across, const MeshedWalls& mesh,
               const GoesOn& goes_on, double reach) {
  for (const Vec3& way : ways_around(across)) {
    const auto hit = mesh.rays.first_crossing(middle, middle + way * reach);
    if (!hit || !mesh.met_from_air(*hit, way)) return false;
    for (const double share : {0.5, 0.95})
      if (!goes_on(middle + (hit->point - middle) * share)) return false;
  }
  return true;
}

}  // namespace

std::vector<LostPiece> lost_pieces(const VolumeMesh& m, const std::vector<double>& leaf,
                                   const Surface& vehicle, const SolidField& solid,
                                   double surface_size) {
  const MeshedWalls mesh(m);
  const WallTriangles& walls = mesh.walls;
  if (vehicle.size() == 0 || walls.surface.size() == 0) return {};
  const NearestTree wall(walls.surface);
  const double off = 1e-6 * norm(bounds(vehicle).size());
  const auto leaf_at = [&](int triangle) {
    return leaf[at(m.face_points[at(m.face_start[at(walls.face_of[at(triangle)])])])];
  };
  double reach = 0;
  for (int t = 0; t < static_cast<int>(walls.face_of.size()); ++t)
    reach = std::max(reach, leaf_at(t));
  const std::vector<Sample> samples = samples_of(vehicle, surface_size);
  std::vector<char> lost(samples.size(), 0);
  parallel_for(
      samples.size(),
      [&](std::size_t i) {
        const auto& [p, n, part, area] = samples[i];
        if (!mesh.meshed.contains(p)) return;
        const NearestTree::Found near = wall.nearest(p, reach);
        if (near.triangle >= 0 && near.distance <= leaf_at(near.triangle)) return;
        const bool hidden = solid.inside(p + n * off, 0) && solid.inside(p - n * off, 0);
        lost[i] = !hidden && mesh.in_air(p);
      },
      256);
  return by_part(samples, lost, vehicle.part_names);
}

std::vector<LostPiece> holes_in_plates(const VolumeMesh& m, const Surface& vehicle,
                                       const SolidField& solid, double surface_size) {
  const double thickest = 1.5 * surface_size, beyond = 0.1 * surface_size, reach = 8 * surface_size;
  const MeshedWalls mesh(m);
  if (vehicle.size() == 0 || mesh.walls.surface.size() == 0) return {};
  const RayScene sides(vehicle);
  const double off = 1e-6 * norm(bounds(vehicle).size());
  const auto open = [&](const Vec3& middle, const Vec3& to_side) {
    return mesh.meshed.contains(middle) && mesh.in_air(middle) &&
           leads_through(middle, to_side, mesh, beyond);
  };
  const auto in_plate = [&](const Vec3& p) { return solid.inside(p, 0); };
  const auto on_sheet = [&](const Vec3& p) { return solid.surface_near(p, beyond); };
  const auto off_the_rim = [&](const Vec3& p, const Vec3& normal) {
    const auto ways = ways_around(normal);
    return std::all_of(ways.begin(), ways.end(),
                       [&](const Vec3& way) { return on_sheet(p + way * surface_size); });
  };
  const auto hole_in_plate = [&](const Vec3& side, const Vec3& inward) {
    const auto other = sides.first_crossing(side, side + inward * thickest);
    if (!other) return false;
    const Vec3 middle = 0.5 * (side + other->point);
    return open(middle, side - middle) && in_plate(middle) &&
           walled_in(middle, inward, mesh, in_plate, reach);
  };
  std::vector<Sample> samples = samples_of(vehicle, surface_size);
  std::vector<char> from_a_side(samples.size(), 0), in_a_sheet(samples.size(), 0);
  parallel_for(
      samples.size(),
      [&](std::size_t i) {
        const auto& [p, n, part, area] = samples[i];
        from_a_side[i] = hole_in_plate(p + n * off, n) || hole_in_plate(p - n * off, -n);
        in_a_sheet[i] = !from_a_side[i] && open(p, n * off) &&
                        solid.is_sheet(p, {beyond, surface_size}) &&
                        (off_the_rim(p, n) || walled_in(p, n, mesh, on_sheet, reach));
      },
      256);
  std::vector<char> in_a_hole(samples.size(), 0);
  for (std::size_t i = 0; i < samples.size(); ++i) {
    in_a_hole[i] = from_a_side[i] || in_a_sheet[i];
    if (from_a_side[i]) samples[i].area *= 0.5;  // seen from both sides
  }
  return by_part(samples, in_a_hole, vehicle.part_names);
}

}  // namespace dunefield
