// Facets that lie in one plane, taken as one: how a flat face was cut into facets is chance.
#pragma once

#include <vector>

#include <dunefield/geometry/edges.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Connected facets whose normals are within `most_angle` (rad) of that of the first of them. Takes
/// a time linear in the facets, but for sorting the points of each patch.
class FlatPatches {
 public:
  FlatPatches(const Surface& surface, const EdgeTable& edges, double most_angle);

  /// Distance from the line through two points to the farthest point of the triangle's patch, m.
  double height(int triangle, int low, int high) const;

 private:
  void grow(int seed, const std::vector<std::array<int, 3>>& beyond, double least_cosine);
  /// Keeps the convex outline of a patch's points, found by Andrew's monotone chain (1979).
  void add_outline(const std::vector<int>& triangles, const Vec3& normal);

  const Surface& surface_;
  std::vector<int> patch_of_;
  std::vector<std::size_t> start_ = {0};  ///< of each patch in `outline_`
  std::vector<int> outline_;              ///< points of the surface
};

}  // namespace dunefield
