// Facets so thin that their normal says nothing.
#pragma once

#include <algorithm>
#include <cstddef>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Is the triangle's height less than `shape` (a hundredth) of its longest side?
inline bool is_sliver(const Surface& s, std::size_t triangle, double shape = 0.01) {
  double longest2 = 0;
  for (int k = 0; k < 3; ++k)
    longest2 = std::max(longest2, norm2(s.corner(triangle, (k + 1) % 3) - s.corner(triangle, k)));
  return 2 * norm(s.area_vector(triangle)) < shape * longest2;
}

}  // namespace dunefield
