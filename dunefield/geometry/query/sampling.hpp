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

}  // namespace dunefield
