// Where facets pass through each other.
#pragma once

#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct Crossings {
  std::size_t count = 0;         ///< pairs of facets that share no point and cross
  std::size_t within_piece = 0;  ///< of these, pairs of one connected piece
  std::vector<Vec3> places;      ///< of some thousand of them, spread over all
  std::vector<char> triangle;    ///< per triangle: takes part in one
};

/// Pairs whose boxes touch are found by a tree; a pair crosses when an edge of one passes through
/// the other's inside (Moeller and Trumbore 1997).
Crossings find_self_crossings(const Surface& surface, const Pieces& pieces);

}  // namespace dunefield
