// How far the two sides of a vehicle differ.
#pragma once

#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct Asymmetry {
  /// Coordinate of the mirror plane along its axis, where the two sides agree best
  double plane = 0;
  double mean = 0;  ///< distance of mirrored points from the surface, m
  double largest = 0;
  Vec3 place;  ///< of the largest
};

/// Mirrors points of the surface at a plane across an axis (0, 1, 2: x, y, z) and measures their
/// distance from it (over two million triangles: along the mirrored normal).
Asymmetry asymmetry(const Surface& surface, const RayScene& rays, int axis,
                    std::size_t samples = 4000);

}  // namespace dunefield
