// Points spread over a surface by area, the same each time.
#pragma once

#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct SurfaceSample {
  Vec3 point;
  int triangle = 0;
};

/// About `wanted` points, each standing for the same area.
/// @param triangles those to sample; empty: all
std::vector<SurfaceSample> sample_surface(const Surface& surface, std::size_t wanted,
                                          const std::vector<int>& triangles = {});

/// Points where one line through each square of a lattice fixed in space, along the axis most
/// across the facet and at a place of chance in the square, pierces the surface: however a face is
/// cut into facets, its points are the same.
/// @param spacing of the lattice, m: between 0.58 and one point for each of its squares of surface
std::vector<SurfaceSample> pierced_surface(const Surface& surface, double spacing);

}  // namespace dunefield
