// Where the stream meets thin shapes: the leading edges of wings.
#pragma once

#include <vector>

#include <dunefield/geometry/folds.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/mesh/octree/solid_field.hpp>

namespace dunefield {

/// A piece of a rounded nose that faces the stream (along x), of a shape that is thin across it and
/// several times as long as thick behind it.
struct LeadingEdge {
  Vec3 from, to;
  double radius;  ///< of the nose's curvature, m
};

/// Along edges of facets. Rods, whose depth is their thickness, have none; nor have sharp plates.
/// @param folds of the surface
/// @param least_radius, most_radius of the curvature, m: what is sharper or blunter is left out
std::vector<LeadingEdge> leading_edges(const Surface& surface, const std::vector<Fold>& folds,
                                       const RayScene& rays, const SolidField& solid,
                                       double least_radius, double most_radius);

}  // namespace dunefield
