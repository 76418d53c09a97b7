// What a raw surface bounds: doubled facets are left out, facets turned outward, sheets told from
// shells. Orientation by visibility from outside follows Takayama, Jacobson, Kavan, Sorkine-Hornung
// 2014.
#pragma once

#include <vector>

#include <dunefield/geometry/edges.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// A connected piece of the surface that bounds something.
struct Shell {
  std::vector<int> triangles;
  bool closed = false;  ///< every edge is passed as often one way as the other
};

struct Shells {
  /// Per triangle, left out: the same three points as an earlier one, or of two slivers back to
  /// back
  std::vector<char> doubled;
  std::vector<char> turned;  ///< per triangle: its other side is the outer one
  std::vector<char> sheet;   ///< per triangle: of a piece with air on both sides; bounds nothing
  /// Per triangle: piece it belongs to (facets joined by edges that part exactly two)
  std::vector<int> piece;
  std::vector<Shell> shells;  ///< sheets excluded
  std::size_t doubled_count = 0, turned_count = 0, sheet_count = 0;
};

/// @param sheet_parts per part, true where the user says that there is air on both sides; empty:
/// found by visibility
Shells find_shells(const Surface& surface, const RayScene& rays,
                   const std::vector<char>& sheet_parts = {});
/// The same, where the table of the surface's edges is at hand.
Shells find_shells(const Surface& surface, const RayScene& rays, const EdgeTable& edges,
                   const std::vector<char>& sheet_parts = {});

}  // namespace dunefield
