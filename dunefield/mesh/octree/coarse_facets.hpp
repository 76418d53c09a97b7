// Curves that a surface file approximates by facets wider than the cells: the mesh shows the
// facets, and the flow feels each of their edges.
#pragma once

#include <dunefield/geometry/surface.hpp>
#include <dunefield/mesh/octree/octree.hpp>

namespace dunefield {

struct CoarseFacets {
  double area = 0;                            ///< m2, of facets that several leaves fit on
  double share = 0;                           ///< of the surface in the octree's box
  double least_angle = 0, largest_angle = 0;  ///< between such facets, rad
  Vec3 place;                  ///< where the largest share of that is, the middle of an edge
  double width = 0, leaf = 0;  ///< of a facet there and of its leaf, m
};

/// A fold between two facets belongs to a curve if it is one of 10 to 30 degrees between facets
/// that are no panels: at most six leaves wide, both together twelve. Which curves are meant as
/// corners nobody can tell.
CoarseFacets coarse_facets(const Surface& vehicle, const Octree& octree);

}  // namespace dunefield
