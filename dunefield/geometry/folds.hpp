// Where two facets of a surface meet at an angle: sharp edges, and the small turns of which a
// curved surface is made.
#pragma once

#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct Fold {
  int low, high;    ///< points of the surface
  Vec3 normals[2];  ///< unit, turned to the same side
  double angle;     ///< between the normals, rad
  double width;     ///< heights of both facets above the edge together (of all that lie in
                    ///< one plane with them: how a face is cut into facets is chance), m
  double narrower;  ///< the smaller of the two heights, m
};

/// All edges with two facets between `least_angle` and `largest_angle` (rad), by their points.
/// Facets without width, as tessellations leave them, have no normal to speak of: the next facet
/// behind them counts.
std::vector<Fold> folds_of(const Surface& surface, double least_angle, double largest_angle);

}  // namespace dunefield
