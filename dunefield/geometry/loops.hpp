// Open edges chained into loops: the rims of holes and sheets.
#pragma once

#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct EdgeLoop {
  /// In the sense of the facets at the rim, so that a patch over the hole runs the other way
  std::vector<int> points;
  double length = 0;
  Vec3 centre;      ///< mean of the points
  double size = 0;  ///< diagonal of its box
  /// False: a chain with two ends, where facets disagree or more than two meet
  bool closed = true;
};

/// All loops of edges with one facet, the longest first.
/// @param left_out per triangle, true for those that do not count; empty: none
/// @param turned per triangle, true for those whose other side is the outer one; empty: none
std::vector<EdgeLoop> open_loops(const Surface& surface, const std::vector<char>& left_out = {},
                                 const std::vector<char>& turned = {});

}  // namespace dunefield
