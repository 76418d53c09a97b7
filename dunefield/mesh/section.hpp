// Cells cut by a plane.
#pragma once

#include <algorithm>
#include <cstdint>
#include <functional>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// A plane through `point`; `normal` is a unit vector.
struct Plane {
  Vec3 point, normal;
  double height(const Vec3& p) const { return dot(p - point, normal); }
};

/// Two unit vectors in the plane, a right-handed system with its normal: level and upward, as far
/// as it is upright.
struct PlaneAxes {
  Vec3 across, up;
  explicit PlaneAxes(const Vec3& normal);
};

/// Calls `visit(a, b, share)` where the plane crosses an edge of the cell: the edge's ends, and the
/// share of the way from a to b. An edge comes once for each of the cell's faces that has it.
template <class Visit>
void visit_crossings(const VolumeMesh& m, const CellFaces& rows, int cell, const Plane& plane,
                     const Visit& visit) {
  for (int r = rows.start[at(cell)]; r < rows.start[at(cell) + 1]; ++r) {
    const int f = rows.face[at(r)], first = m.face_start[at(f)],
              n = m.face_start[at(f) + 1] - first;
    for (int k = 0; k < n; ++k) {
      const int a = m.face_points[at(first + k)], b = m.face_points[at(first + (k + 1) % n)];
      const double ha = plane.height(m.points[at(a)]), hb = plane.height(m.points[at(b)]);
      if ((ha > 0) != (hb > 0)) visit(a, b, ha / (ha - hb));
    }
  }
}

/// One number for an edge, whichever of its ends comes first.
inline std::uint64_t edge_key(int a, int b) {
  return static_cast<std::uint64_t>(std::min(a, b)) << 32 |
         static_cast<std::uint64_t>(std::max(a, b));
}

/// Corners of the cell's cut, in order round the normal; none if the plane misses the cell. The
/// cell is taken as convex.
std::vector<Vec3> cell_section(const VolumeMesh& mesh, const CellFaces& rows, int cell,
                               const Plane& plane);

/// Numbers of the cells that the plane cuts, ascending.
std::vector<int> cut_cells(const VolumeMesh& mesh, const Plane& plane);

/// The part of a convex outline in order round where `height` is not negative.
std::vector<Vec3> clipped(const std::vector<Vec3>& outline,
                          const std::function<double(const Vec3&)>& height);

/// The part of a convex outline in an upright lengthwise plane that lies within a frame's x and z.
std::vector<Vec3> within(std::vector<Vec3> outline, const Box& frame);

}  // namespace dunefield
