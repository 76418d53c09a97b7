// How well a mesh fits the surface it was made from, measured by sampling both.
#pragma once

#include <cmath>
#include <map>
#include <set>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/folds.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/sampling.hpp>
#include <dunefield/geometry/query/surface_query.hpp>
#include <dunefield/mesh/dual/sharp_lines.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

struct MeshFit {
  /// Of points of the surface: within 5 % of the local leaf of the nearest wall face
  double near_share = 0;
  double far_99 = 0;  ///< distance that 99 % stay under, in leaves
  /// Between wall faces and surface, off sharp edges, degrees
  double angle_median = 0, angle_99 = 0;
  double edge_share = 0;  ///< of points of sharp edges: within 5 % of the local leaf of a mesh edge
  /// Of the others: with another sharp edge, not a neighbour along the line, within a mesh edge
  double crowded_share = 0;
  double lost_share = 0;  ///< of the others: where the mesh has no wall within a leaf
  /// Of the others: with the wall itself within 5 % of a leaf, so that the edge runs across a face
  double across_share = 0;
  std::size_t points = 0, edge_points = 0;
  /// Points of sharp edges that are not, and how far off, in leaves
  std::vector<std::pair<Vec3, double>> missed;
};

namespace mesh_fit_detail {

inline double percentile(std::vector<double> v, double share) {
  if (v.empty()) return 0;
  const auto k = static_cast<std::ptrdiff_t>(share * static_cast<double>(v.size() - 1));
  std::nth_element(v.begin(), v.begin() + k, v.end());
  return v[at(k)];
}

/// A thin triangle for each segment: the nearest-point search then serves for lines, too.
inline Surface of_segments(const std::vector<std::array<Vec3, 2>>& lines) {
  Surface s;
  s.part_names = {"edges"};
  for (const auto& [a, b] : lines) {
    const int n = static_cast<int>(s.points.size());
    s.points.push_back(a), s.points.push_back(b);
    s.triangles.push_back({n, n + 1, n + 1}), s.part_of.push_back(0);
  }
  return s;
}

/// Lines that meet at their ends, and what runs close beside them.
class LineNetwork {
 public:
  /// @param ends two points of each line
  LineNetwork(const std::vector<Vec3>& points, const std::vector<std::array<int, 2>>& ends,
              double reach)
      : points_(points), ends_(ends), cell_(reach) {
    for (std::size_t l = 0; l < ends.size(); ++l) {
      for (const int p : ends[l]) at_point_[p].push_back(l);
      const Vec3 a = point(l, 0), way = point(l, 1) - a;
      const int steps = static_cast<int>(2 * norm(way) / cell_) + 1;
      for (int i = 0; i <= steps; ++i) {
        auto& lines = near_[key(a + way * (static_cast<double>(i) / steps))];
        if (lines.empty() || lines.back() != l) lines.push_back(l);
      }
    }
  }

  /// True if within `reach` of a point of the line there is another, to which no way of thrice that
  /// length leads along lines.
  bool has_company(const Vec3& p, std::size_t line, double reach) const {
    const std::set<std::size_t> own = reached(p, line, 3 * reach);
    const auto k = key(p);
    for (int i = -1; i <= 1; ++i)
      for (int j = -1; j <= 1; ++j)
        for (int n = -1; n <= 1; ++n)
          if (const auto found = near_.find({k[0] + i, k[1] + j, k[2] + n}); found != near_.end())
            for (const std::size_t l : found->second)
              if (!own.contains(l) && distance(p, l) < reach) return true;
    return false;
  }

 private:
  using Key = std::array<long, 3>;
  Vec3 point(std::size_t line, int end) const { return points_[at(ends_[line][at(end)])]; }
  Key key(const Vec3& p) const {
    return {std::lround(p.x / cell_), std::lround(p.y / cell_), std::lround(p.z / cell_)};
  }
  double distance(const Vec3& p, std::size_t line) const {
    const Vec3 a = point(line, 0), way = point(line, 1) - a;
    return norm(p - a - way * std::clamp(dot(p - a, way) / std::max(norm2(way), 1e-300), 0.0, 1.0));
  }
  std::set<std::size_t> reached(const Vec3& p, std::size_t line, double far) const {
    std::set<std::size_t> lines = {line};
    std::map<int, double> way;
    std::vector<int> open;
    const auto come_to = [&](int end, double length) {
      if (const auto known = way.find(end);
          length > far || (known != way.end() && known->second <= length))
        return;
      way[end] = length;
      open.push_back(end);
    };
    for (const int end : ends_[line]) come_to(end, norm(points_[at(end)] - p));
    while (!open.empty()) {
      const int from = open.back();
      open.pop_back();
      for (const std::size_t l : at_point_.at(from)) {
        lines.insert(l);
        for (const int end : ends_[l]) come_to(end, way[from] + norm(point(l, 0) - point(l, 1)));
      }
    }
    return lines;
  }

  const std::vector<Vec3>& points_;
  const std::vector<std::array<int, 2>>& ends_;
  double cell_;
  std::map<int, std::vector<std::size_t>> at_point_;
  std::map<Key, std::vector<std::size_t>> near_;
};

}  // namespace mesh_fit_detail

/// @param leaf the surface's; where leaves are smaller they are told by the wall faces
/// @param low nothing is measured below this height: plinths stand there
/// @param half only y > 0 is meshed; a little off the centre plane is left out
inline MeshFit measure_fit(const VolumeMesh& mesh, const Surface& vehicle, double leaf, double low,
                           bool half) {
  using namespace mesh_fit_detail;
  const SurfaceQuery query(vehicle);
  const double sliver = 1e-5;
  const auto counts = [&](const Vec3& p) { return p.z > low && (!half || p.y > 0.5 * leaf); };
  // The wall as triangles, and its edges.
  Surface wall;
  wall.points = mesh.points, wall.part_names = {"wall"};
  std::map<std::pair<int, int>, int> edges;
  std::vector<Vec3> centre, normal;
  std::vector<int> face_of;                         // by triangle
  std::vector<double> side(mesh.points.size(), 0);  // of the largest wall face at each point, m
  for (const Boundary& boundary : mesh.boundaries)
    if (boundary.kind == BoundaryKind::part)
      for (int f = boundary.first; f < boundary.first + boundary.count; ++f) {
        const int middle = static_cast<int>(wall.points.size()), first = mesh.face_start[at(f)],
                  n = mesh.face_start[at(f) + 1] - first;
        Vec3 mean;
        for (int k = 0; k < n; ++k) {
          const int a = mesh.face_points[at(first + k)],
                    b = mesh.face_points[at(first + (k + 1) % n)];
          mean += mesh.points[at(a)] / n;
          side[at(a)] = std::max(side[at(a)], std::sqrt(norm(mesh.face_area[at(f)])));
          wall.triangles.push_back({middle, a, b}), wall.part_of.push_back(0), face_of.push_back(f);
          ++edges[{std::min(a, b), std::max(a, b)}];
        }
        wall.points.push_back(mean);
        centre.push_back(mesh.face_centre[at(f)]), normal.push_back(-unit(mesh.face_area[at(f)]));
      }
  MeshFit fit;
  const NearestTree wall_tree(wall);
  // The leaf at a triangle of the wall: faces have about its side, those cut off at edges less,
  // united ones more.
  const auto local_leaf = [&](int triangle) {
    double largest = 0;
    const int f = face_of[at(triangle)];
    for (int k = mesh.face_start[at(f)]; k < mesh.face_start[at(f) + 1]; ++k)
      largest = std::max(largest, side[at(mesh.face_points[at(k)])]);
    return leaf / std::exp2(std::max(0.0, std::round(std::log2(1.2 * leaf / largest))));
  };
  // Exposed points of the true surface.
  const auto exposed = [&](const Vec3& p, const Vec3& n) {
    return counts(p) && query.inside(p + n * sliver) != query.inside(p - n * sliver);
  };
  const auto samples = sample_surface(vehicle, 200'000);
  std::vector<double> gap(samples.size(), -1);
  parallel_for(
      samples.size(),
      [&](std::size_t i) {
        const Vec3 n = unit(vehicle.area_vector(at(samples[i].triangle)));
        if (!exposed(samples[i].point, n)) return;
        const auto found = wall_tree.nearest(samples[i].point, 10 * leaf);
        gap[i] = found.triangle < 0 ? 10 : found.distance / local_leaf(found.triangle);
      },
      256);
  std::erase_if(gap, [](double g) { return g < 0; });
  fit.points = gap.size();
  fit.near_share = static_cast<double>(
                       std::count_if(gap.begin(), gap.end(), [](double g) { return g < 0.05; })) /
                   static_cast<double>(std::max<std::size_t>(1, gap.size()));
  fit.far_99 = percentile(gap, 0.99);
  // Sharp edges of the true surface: over 40 degrees.
  std::vector<std::array<Vec3, 2>> sharp;
  std::vector<Vec3> out;
  std::vector<std::array<int, 2>> sharp_ends;
  for (const Fold& fold : folds_of(vehicle, sharp_angle, folded_angle)) {
    sharp.push_back({vehicle.points[at(fold.low)], vehicle.points[at(fold.high)]}),
        out.push_back(unit(fold.normals[0] + fold.normals[1]));
    sharp_ends.push_back({fold.low, fold.high});
  }
  const LineNetwork network(vehicle.points, sharp_ends, leaf);
  std::vector<std::array<Vec3, 2>> mesh_edges;
  for (const auto& [ends, uses] : edges)
    mesh_edges.push_back({mesh.points[at(ends.first)], mesh.points[at(ends.second)]});
  const NearestTree edge_tree(of_segments(mesh_edges));
  const NearestTree sharp_tree(of_segments(sharp));
  std::size_t on_edge = 0, crowded = 0, across = 0, lost = 0;
  for (std::size_t e = 0; e < sharp.size(); ++e) {
    const double length = norm(sharp[e][1] - sharp[e][0]);
    const int steps = static_cast<int>(length / (0.2 * leaf)) + 1;
    for (int i = 0; i < steps; ++i) {
      const Vec3 p = sharp[e][0] + (sharp[e][1] - sharp[e][0]) * ((i + 0.5) / steps);
      if (!counts(p) || query.inside(p + out[e] * sliver) ||
          query.inside(p - out[e] * (50 * sliver)) == query.inside(p + out[e] * (50 * sliver)))
        continue;
      ++fit.edge_points;
      const NearestTree::Found nearest = edge_tree.nearest(p, 10 * leaf);
      const double far = nearest.distance;
      const auto on_wall = wall_tree.nearest(p, 2 * leaf);
      const double here = on_wall.triangle < 0 ? leaf : local_leaf(on_wall.triangle);
      on_edge += far < 0.05 * here;
      if (far < 0.05 * here) continue;
      fit.missed.push_back({p, far / here});
      lost += on_wall.triangle < 0 || on_wall.distance > here;
      across += on_wall.triangle >= 0 && on_wall.distance < 0.05 * here;
      const auto& mesh_edge =
          nearest.triangle >= 0 ? mesh_edges[at(nearest.triangle)] : std::array<Vec3, 2>{};
      crowded += network.has_company(p, e, std::min(leaf, norm(mesh_edge[1] - mesh_edge[0])));
    }
  }
  fit.edge_share =
      fit.edge_points ? static_cast<double>(on_edge) / static_cast<double>(fit.edge_points) : 1;
  if (!fit.missed.empty()) {
    const auto missed = static_cast<double>(fit.missed.size());
    fit.crowded_share = static_cast<double>(crowded) / missed,
    fit.across_share = static_cast<double>(across) / missed,
    fit.lost_share = static_cast<double>(lost) / missed;
  }
  std::vector<double> angle(centre.size(), -1);
  parallel_for(
      centre.size(),
      [&](std::size_t i) {
        if (!counts(centre[i]) ||
            (!sharp.empty() && sharp_tree.nearest(centre[i], leaf).triangle >= 0))
          return;
        const auto hit = query.nearest(centre[i], 2 * leaf);
        if (!hit) return;
        // facets of raw surfaces may be turned either way
        const double c = std::abs(dot(hit->normal, normal[i]));
        angle[i] = std::acos(std::min(1.0, c)) * 180 / 3.14159265358979;
      },
      256);
  std::erase_if(angle, [](double a) { return a < 0; });
  fit.angle_median = percentile(angle, 0.5), fit.angle_99 = percentile(angle, 0.99);
  return fit;
}

}  // namespace dunefield
