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

  /// Of the curved surface whose facets meet here, m: a facet has its normal half its height away
  /// from the edge (exactly so for the right-angled halves of a quad).
  double radius() const { return width / (2 * angle); }
};

/// All edges with two facets between `least_angle` and `largest_angle` (rad), by their points.
/// Facets without width, as tessellations leave them, have no normal to speak of: the next facet
/// behind them counts.
std::vector<Fold> folds_of(const Surface& surface, double least_angle, double largest_angle);

}  // namespace dunefield
