// Values of a plane's triangles on a grid of pixels.
#pragma once

#include <dunefield/look/scene.hpp>
#include <dunefield/mesh/section.hpp>

namespace dunefield {

/// A grid in a plane; none of the pixels outside the triangles has a value.
struct PlaneRaster {
  Vec3 corner, across, up;
  double pixel = 0;  ///< m
  int width = 0, height = 0;
  std::vector<Vec3> value;  ///< rows from below
  std::vector<char> there;
  std::size_t index(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
           static_cast<std::size_t>(x);
  }
  bool inside(int x, int y) const { return x >= 0 && y >= 0 && x < width && y < height; }
  Vec3 place(double x, double y) const { return corner + across * (x * pixel) + up * (y * pixel); }
};

/// @param values one for each point of the sheet, linear in each triangle
/// @param frame what lies in it, of the plane, is covered
PlaneRaster rastered(const Sheet& sheet, const std::vector<Vec3>& values, const Plane& plane,
                     const Box& frame, double pixel);

/// Line integral convolution (Cabral and Leedom 1993) of noise along the part of the values that
/// lies in the plane. @param length of the streaks, pixels
PlaneTexture flow_texture(const PlaneRaster& velocity, double length);

}  // namespace dunefield
