#include <dunefield/mesh/dual/fitting.hpp>

#include <Eigen/Dense>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double leaf_margin = 0.05;  // of the edge, kept free by points held in their leaf
// normals within this of their mean belong to a smooth surface
constexpr double smooth_cosine = 0.93;
constexpr double opposite = -0.5;  // cosine between the normals of a plate's two sides
// singular values below this share of the largest carry no information
constexpr double truncation = 0.05;
constexpr double enlarged = 0.3;  // of the edge, how far a feature point may leave its leaf
constexpr double snap = 0.3;  // of the edge: a feature point this near to a sharp edge goes there
// the same where the sharp edge passes through the leaf itself,
constexpr double snap_within = 0.45;
constexpr double truly_within = 0.03;  // and not just along its side
constexpr double snap_rim = 1.2;       // the same for the rim of a plate, which has no other point
constexpr int passes = 5;

/// The leaf's box grown by `margin` edges; flat along clamped axes.
Box leaf_box(const Octree& octree, const DualPoint& info, const Vec3& p, double margin) {
  const auto& leaf = octree.leaves()[at(info.leaf)];
  const Vec3 c = octree.centre(leaf);
  const double half = (0.5 + margin) * octree.size(leaf);
  Box box{c - Vec3{half, half, half}, c + Vec3{half, half, half}};
  for (int axis = 0; axis < 3; ++axis)
    if (info.clamped >> axis & 1) box.lo[axis] = box.hi[axis] = p[axis];
  return box;
}

Vec3 clamp_to(const Box& box, const Vec3& p) { return min(max(p, box.lo), box.hi); }

/// A normal made parallel to the boundary planes that hold the point.
Vec3 in_plane(Vec3 n, int clamped) {
  for (int axis = 0; axis < 3; ++axis)
    if (clamped >> axis & 1) n[axis] = 0;
  return unit(n);
}

struct Cut {
  const SolidField::Crossing* begin;
  int count;
  Vec3 mean, normal;
  bool smooth;
  bool assumed;  ///< at one at least there is no surface
  bool rim;      ///< of a plate: both its sides are crossed
};

Cut cut_of(const DualMesh& dual, const DualPoint& info) {
  Cut cut{&dual.crossings[at(info.first_crossing)], info.crossings, {}, {}, true, false, false};
  for (int i = 0; i < cut.count; ++i)
    cut.mean += cut.begin[i].point / cut.count,
        cut.normal += in_plane(cut.begin[i].normal, info.clamped),
        cut.assumed = cut.assumed || cut.begin[i].assumed;
  cut.normal = unit(cut.normal);
  for (int i = 0; i < cut.count; ++i)
    cut.smooth =
        cut.smooth && dot(in_plane(cut.begin[i].normal, info.clamped), cut.normal) > smooth_cosine;
  for (int i = 1; i < cut.count; ++i)
    for (int j = 0; j < i; ++j)
      cut.rim = cut.rim || dot(cut.begin[i].normal, cut.begin[j].normal) < opposite;
  return cut;
}

/// Moves onto the surface, within the boundary planes that hold the point.
Vec3 projected(const SolidField& solid, Vec3 p, const Vec3& normal, int clamped, double edge) {
  const int steps = clamped ? 4 : 1;
  for (int i = 0; i < steps; ++i) {
    const auto near = solid.project(p, 0.7 * edge, normal);
    if (!near) return p;
    if (!clamped) return near->point;
    const Vec3 n = in_plane(near->normal, clamped);
    const double slope = dot(n, near->normal);
    if (slope < 0.2) return p;
    p += n * (dot(near->point - p, near->normal) / slope);
  }
  return p;
}

/// Least-squares point of the crossed planes about `from`, weak directions left alone.
Vec3 feature_point(const Cut& cut, int clamped, const Vec3& from) {
  Eigen::Matrix3d a = Eigen::Matrix3d::Zero();
  Eigen::Vector3d b = Eigen::Vector3d::Zero();
  for (int i = 0; i < cut.count; ++i) {
    const Vec3 n = in_plane(cut.begin[i].normal, clamped);
    const Eigen::Vector3d e(n.x, n.y, n.z);
    a += e * e.transpose();
    b += e * dot(n, cut.begin[i].point - from);
  }
  const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> eigen(a);
  Eigen::Vector3d step = Eigen::Vector3d::Zero();
  const double largest = eigen.eigenvalues()[2];
  for (int i = 0; i < 3; ++i)
    if (eigen.eigenvalues()[i] > truncation * largest)
      step += eigen.eigenvectors().col(i) *
              (eigen.eigenvectors().col(i).dot(b) / eigen.eigenvalues()[i]);
  return from + Vec3{step.x(), step.y(), step.z()};
}

/// The way through a plate both of whose sides are crossed.
Vec3 across_plate(const Cut& cut) {
  Vec3 sum;
  for (int i = 0; i < cut.count; ++i) {
    const Vec3& n = cut.begin[i].normal;
    sum += dot(n, cut.begin[0].normal) < 0 ? -n : n;
  }
  return unit(sum);
}

struct Place {
  Vec3 point;
  bool on_sharp_edge = false;
};

Place accurate_place(const DualMesh& dual, const Octree& octree, const SolidField& solid,
                     const SharpLines& sharp, const DualPoint& info, const Vec3& now) {
  const Cut cut = cut_of(dual, info);
  const double edge = octree.size(octree.leaves()[at(info.leaf)]);
  const Box room = leaf_box(octree, info, now, enlarged);
  Vec3 p = clamp_to(room, cut.mean);
  if (!cut.smooth)
    for (int i = 0; i < 4; ++i) p = clamp_to(room, feature_point(cut, info.clamped, p));
  p = projected(solid, p, cut.normal, info.clamped, edge);
  // The planes through a few crossings meet near the edge of a curved rim, or between two edges of
  // a small chamfer, but not on them. And a leaf whose edges the surface crosses beside a sharp
  // edge within knows nothing of it.
  if (!info.clamped) {
    const Box leaf = leaf_box(octree, info, now, truly_within);
    if (const auto corner = cut.rim ? sharp.rim_corner(p, leaf) : std::nullopt)
      return {*corner, true};
    if (const auto on_edge = cut.rim ? sharp.nearest_rim(p, snap_rim * edge)
                                     : sharp.nearest(p, snap_within * edge)) {
      const bool within = leaf_box(octree, info, now, -truly_within).contains(*on_edge),
                 near = norm(*on_edge - p) < snap * edge;
      if (within || ((cut.rim || (near && !cut.smooth)) && room.contains(*on_edge)))
        return {*on_edge, true};
    } else if (cut.rim) {
      const auto end = solid.plate_end(cut.mean, across_plate(cut), snap_rim * edge);
      if (end && room.contains(*end)) return {*end};
    }
  }
  // The solid of a thickened plate goes as far as a leaf beyond the plate itself.
  return {cut.assumed ? p : clamp_to(room, p)};
}

}  // namespace

void place_wall_points(DualMesh& dual, const Octree& octree) {
  for (std::size_t i = 0; i < dual.point_info.size(); ++i) {
    const DualPoint& info = dual.point_info[i];
    if (info.crossings == 0) continue;
    Vec3& p = dual.mesh.points[i];
    p = clamp_to(leaf_box(octree, info, p, -leaf_margin), cut_of(dual, info).mean);
  }
}

FitReport fit_wall_points(DualMesh& dual, const Octree& octree, const SolidField& solid,
                          const SharpLines& sharp, const Progress& progress) {
  VolumeMesh& mesh = dual.mesh;
  const CellFaces rows = faces_of_cells(mesh);
  std::vector<int> moving;
  for (std::size_t i = 0; i < dual.point_info.size(); ++i)
    if (dual.point_info[i].crossings > 0) moving.push_back(static_cast<int>(i));
  std::vector<Vec3> target(moving.size());
  FitReport report;
  report.on_sharp_edge.assign(mesh.points.size(), 0);
  parallel_for(
      moving.size(),
      [&](std::size_t k) {
        const Place place = accurate_place(
            dual, octree, solid, sharp, dual.point_info[at(moving[k])], mesh.points[at(moving[k])]);
        target[k] = place.point, report.on_sharp_edge[at(moving[k])] = place.on_sharp_edge;
      },
      64);
  const std::vector<std::vector<int>> cells_around = cells_at_points(mesh, moving);
  report.wall_points = static_cast<int>(moving.size());
  std::vector<char> arrived = move_together(mesh, rows, moving, target, cells_around);
  const auto worst_around = [&](std::size_t k) {
    double worst = 1e300;
    for (const int c : cells_around[k]) worst = std::min(worst, cell_soundness(mesh, rows, c));
    return worst;
  };
  for (int pass = 0; pass < passes; ++pass) {
    progress.check();
    for (std::size_t k = 0; k < moving.size(); ++k) {
      if (arrived[k]) continue;
      Vec3& p = mesh.points[at(moving[k])];
      const Vec3 from = p;
      const double limit = std::min(worst_around(k), soundness_floor);
      for (const double share : {1.0, 0.5, 0.25}) {
        p = from + (target[k] - from) * share;
        if (worst_around(k) >= limit) {
          arrived[k] = share == 1.0;
          break;
        }
        p = from;
      }
    }
  }
  for (std::size_t k = 0; k < moving.size(); ++k) {
    report.arrived += arrived[k];
    if (!arrived[k]) report.on_sharp_edge[at(moving[k])] = 0;
    const double edge = octree.size(octree.leaves()[at(dual.point_info[at(moving[k])].leaf)]);
    report.worst_gap =
        std::max(report.worst_gap, norm(target[k] - mesh.points[at(moving[k])]) / edge);
  }
  return report;
}

}  // namespace dunefield
