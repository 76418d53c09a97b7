// Cells cut by a plane.
#pragma once

#include <functional>

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
