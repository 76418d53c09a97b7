// The points of a section's wall: as close together as curvature, edges, gaps and parts ask for.
#pragma once

#include <vector>

#include <dunefield/geometry/outline.hpp>
#include <dunefield/mesh/mesh_options.hpp>

namespace dunefield {

/// One closed line of wall, the body to its left.
struct WallLine {
  std::vector<Vec3> points;
  std::vector<int> part_of;     ///< of the face from each point to the next
  std::vector<double> turning;  ///< at sharp corners, rad, positive where the body is convex; 0
  std::vector<double> room;     ///< radius of the largest ball of air that touches there, m

  std::size_t size() const { return points.size(); }
  std::size_t next(std::size_t i) const { return i + 1 == points.size() ? 0 : i + 1; }
  std::size_t before(std::size_t i) const { return i == 0 ? points.size() - 1 : i - 1; }
  Vec3 towards_next(std::size_t i) const { return points[next(i)] - points[i]; }
  /// Mean length of the two faces at a point.
  double spacing(std::size_t i) const {
    return 0.5 * (norm(towards_next(i)) + norm(towards_next(before(i))));
  }
};

/// Points along all outlines. Between corners they follow a smooth curve through the outline's own.
/// @param road whether there is one, at z = 0
std::vector<WallLine> wall_lines(const Outline& outline, const MeshOptions& options, bool road);

}  // namespace dunefield
