#include <dunefield/mesh/octree/gaps.hpp>

#include <algorithm>
#include <functional>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/query/sampling.hpp>
#include <dunefield/mesh/wall_triangles.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double facing = 0.7;    // cosine between one wall and the way to the other, at both
constexpr double smallest = 4;    // squares of a leaf that a gap must face: less is a corner
constexpr double one_place = 10;  // leaves around the narrowest face that belong to the same gap

struct Narrow {
  int boundary = -1, other = -1;  ///< -1: not narrow
  double width = 0, leaf = 0, area = 0;
  Vec3 place;
};

/// What lies within some leaves of the narrowest place is one gap.
std::vector<NarrowGap> gathered(std::vector<Narrow> narrow,
                                const std::function<std::string(int)>& name) {
  std::erase_if(narrow, [](const Narrow& n) { return n.boundary < 0; });
  std::stable_sort(narrow.begin(), narrow.end(), [](const Narrow& a, const Narrow& b) {
    return a.width / a.leaf < b.width / b.leaf;
  });
  std::vector<NarrowGap> gaps;
  std::vector<char> taken(narrow.size(), 0);
  for (std::size_t i = 0; i < narrow.size(); ++i) {
    if (taken[i]) continue;
    const Narrow& first = narrow[i];
    NarrowGap gap{first.place, first.width,          first.width / first.leaf,
                  0,           name(first.boundary), name(first.other)};
    for (std::size_t j = i; j < narrow.size(); ++j)
      if (!taken[j] && norm(narrow[j].place - first.place) < one_place * first.leaf)
        taken[j] = 1, gap.area += narrow[j].area;
    if (gap.area > smallest * first.leaf * first.leaf) gaps.push_back(gap);
  }
  return gaps;
}

bool is_wall(const Boundary& p) {
  return p.kind == BoundaryKind::part || p.kind == BoundaryKind::road;
}

}  // namespace

std::vector<NarrowGap> narrow_gaps(const VolumeMesh& m, const std::vector<double>& leaf,
                                   const std::vector<std::string>& standing, double least) {
  const WallTriangles walls = wall_triangles(m, is_wall);
  const RayScene rays(walls.surface);
  std::vector<int> boundary_of(at(m.faces()), -1);
  std::vector<int> faces;
  for (std::size_t p = 0; p < m.boundaries.size(); ++p)
    for (int f = m.boundaries[p].first; f < m.boundaries[p].first + m.boundaries[p].count; ++f) {
      boundary_of[at(f)] = static_cast<int>(p);
      if (m.boundaries[p].kind == BoundaryKind::part) faces.push_back(f);
    }
  const auto stands = [&](int p) {
    return std::find(standing.begin(), standing.end(), m.boundaries[at(p)].name) != standing.end();
  };
  std::vector<Narrow> narrow(faces.size());
  parallel_for(
      faces.size(),
      [&](std::size_t i) {
        const int f = faces[i], first = m.face_start[at(f)], n = m.face_start[at(f) + 1] - first;
        const PolygonMeasure face = measure_polygon(m.points, &m.face_points[at(first)], n);
        const Vec3 into_air = -unit(face.area);
        double edge = 0;
        for (int k = first; k < first + n; ++k)
          edge = std::max(edge, leaf[at(m.face_points[at(k)])]);
        const double start = 0.05 * edge;
        const auto hit = rays.first_crossing(face.centre + into_air * start,
                                             face.centre + into_air * (least * edge));
        if (!hit || dot(hit->normal, into_air) < facing) return;
        const int own = boundary_of[at(f)],
                  other = boundary_of[at(walls.face_of[at(hit->triangle)])];
        if (m.boundaries[at(other)].kind == BoundaryKind::road && stands(own)) return;
        narrow[i] = {
            own,  other,           start + hit->distance,
            edge, norm(face.area), face.centre + into_air * (0.5 * (start + hit->distance))};
      },
      64);
  const auto name = [&](int p) {
    return m.boundaries[at(p)].kind == BoundaryKind::road ? std::string("road")
                                                          : m.boundaries[at(p)].name;
  };
  return gathered(narrow, name);
}

std::vector<NarrowGap> closed_gaps(const VolumeMesh& m, const std::vector<double>& leaf,
                                   const Surface& vehicle, const SolidField& solid,
                                   double surface_size) {
  constexpr double widest = 2;     // leaves
  constexpr double clearly = 0.3;  // cosine: beside an edge of the wall the side is not clear
  const WallTriangles walls =
      wall_triangles(m, [](const Boundary& p) { return p.kind == BoundaryKind::part; });
  if (vehicle.size() == 0 || walls.surface.size() == 0) return {};
  const NearestTree wall(walls.surface);
  const RayScene rays(vehicle);
  const double off = 1e-6 * norm(bounds(vehicle).size()), area = surface_size * surface_size;
  const auto samples = sample_surface(
      vehicle, static_cast<std::size_t>(std::clamp(total_area(vehicle) / area, 1000.0, 1e6)));
  const double each = total_area(vehicle) / static_cast<double>(samples.size());
  Box meshed;
  for (const Vec3& p : m.points) meshed.include(p);
  std::vector<Narrow> narrow(samples.size());
  parallel_for(
      samples.size(),
      [&](std::size_t i) {
        const Vec3& p = samples[i].point;
        const Vec3 n = unit(vehicle.area_vector(at(samples[i].triangle)));
        for (const Vec3& d : {n, -n}) {
          const auto hit = rays.first_crossing(p + d * off, p + d * (widest * surface_size));
          if (!hit || std::abs(dot(hit->normal, d)) < facing) continue;
          const Vec3 middle = p + d * (0.5 * (off + hit->distance));
          if (!meshed.contains(middle) || solid.inside(middle, 0)) continue;
          const NearestTree::Found near = wall.nearest(middle, 4 * surface_size);
          double edge = surface_size;
          if (near.triangle >= 0) {  // else it lies deep in what the mesh has closed
            const auto t = at(near.triangle);
            // The wall's triangles face out of the air: in front of them the mesh is solid.
            const Vec3 behind = middle - near.point, out = walls.surface.area_vector(t);
            if (dot(behind, out) <= clearly * norm(behind) * norm(out)) continue;
            edge = leaf[at(m.face_points[at(m.face_start[at(walls.face_of[t])])])];
            if (hit->distance > widest * edge) continue;
          }
          narrow[i] = {vehicle.part_of[at(samples[i].triangle)],
                       vehicle.part_of[at(hit->triangle)],
                       off + hit->distance,
                       edge,
                       each,
                       middle};
        }
      },
      64);
  std::vector<NarrowGap> gaps = gathered(narrow, [&](int p) { return vehicle.part_names[at(p)]; });
  for (NarrowGap& g : gaps) g.closed = true;
  std::stable_sort(gaps.begin(), gaps.end(),
                   [](const NarrowGap& a, const NarrowGap& b) { return a.area > b.area; });
  return gaps;
}

}  // namespace dunefield
