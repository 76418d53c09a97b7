#include <dunefield/mesh/dual/lost.hpp>

#include <algorithm>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/query/sampling.hpp>
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

}  // namespace

std::vector<LostPiece> lost_pieces(const VolumeMesh& m, const std::vector<double>& leaf,
                                   const Surface& vehicle, const SolidField& solid,
                                   double surface_size) {
  const WallTriangles walls =
      wall_triangles(m, [](const Boundary& p) { return p.kind == BoundaryKind::part; });
  if (vehicle.size() == 0 || walls.surface.size() == 0) return {};
  const NearestTree wall(walls.surface);
  const RayScene rays(walls.surface);
  Box meshed;
  for (const Vec3& p : m.points) meshed.include(p);
  const double far = norm(meshed.size()), off = 1e-6 * norm(bounds(vehicle).size());
  const auto in_air = [&](const Vec3& p) {
    const auto hit = rays.first_crossing(p, p + away * far);
    // these triangles face out of the air
    return !hit || dot(walls.surface.area_vector(at(hit->triangle)), away) > 0;
  };
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
        if (!meshed.contains(p)) return;
        const NearestTree::Found near = wall.nearest(p, reach);
        if (near.triangle >= 0 && near.distance <= leaf_at(near.triangle)) return;
        const bool hidden = solid.inside(p + n * off, 0) && solid.inside(p - n * off, 0);
        lost[i] = !hidden && in_air(p);
      },
      256);
  std::vector<LostPiece> of_part(vehicle.part_names.size());
  for (std::size_t i = 0; i < samples.size(); ++i) {
    if (!lost[i]) continue;
    LostPiece& piece = of_part[at(samples[i].part)];
    if (piece.area == 0)
      piece.part = vehicle.part_names[at(samples[i].part)], piece.place = samples[i].point;
    piece.area += samples[i].area;
  }
  std::erase_if(of_part, [](const LostPiece& p) { return p.area == 0; });
  std::stable_sort(of_part.begin(), of_part.end(),
                   [](const LostPiece& a, const LostPiece& b) { return a.area > b.area; });
  return of_part;
}

}  // namespace dunefield
