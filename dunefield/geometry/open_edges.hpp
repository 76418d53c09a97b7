// Open edges of a surface that coincide: seams between facets that share no points.
#pragma once

#include <cstddef>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct JoinedEdges {
  std::size_t points = 0;  ///< that became one with another
  std::size_t splits = 0;  ///< points inserted into an edge they lie on (T-junctions)
  Vec3 place;              ///< of the first of them, m
};

/// Joins open edges that coincide within `distance`: point to point, then points to the edges they
/// lie on. Only points on open edges move, by no more than `distance`. Surfaces without coincident
/// open edges stay as they are.
/// @param distance m; choose it far below the width of any gap that air shall pass
JoinedEdges join_open_edges(Surface& surface, double distance);

}  // namespace dunefield
