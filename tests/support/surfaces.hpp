// Surfaces cut otherwise.
#pragma once

#include <dunefield/geometry/surface.hpp>

namespace dunefield::test {

/// Each facet cut into four at the middles of its edges, the facets in the opposite order.
inline Surface quartered(const Surface& s) {
  Surface cut;
  cut.part_names = s.part_names;
  for (std::size_t t = s.size(); t-- > 0;) {
    const auto first = static_cast<int>(cut.points.size());
    for (int k = 0; k < 3; ++k) cut.points.push_back(s.corner(t, k));
    for (int k = 0; k < 3; ++k)
      cut.points.push_back(0.5 * (s.corner(t, k) + s.corner(t, (k + 1) % 3)));
    for (const auto& [a, b, c] : {std::array{0, 3, 5}, {3, 1, 4}, {5, 4, 2}, {3, 4, 5}}) {
      cut.triangles.push_back({first + a, first + b, first + c});
      cut.part_of.push_back(s.part_of[t]);
    }
  }
  weld(cut);
  return cut;
}

}  // namespace dunefield::test
