// A vehicle's surface in parallel projection, shaded, in a part of a canvas; places on it can be
// marked.
#pragma once

#include <functional>

#include <dunefield/geometry/surface.hpp>
#include <dunefield/look/canvas.hpp>

namespace dunefield {

/// Where points of space come to lie on the canvas.
class VehicleView {
 public:
  /// @param from direction from the vehicle to the eye; what is seen fills the frame
  VehicleView(const Surface& surface, const Vec3& from, const PixelFrame& frame);

  struct Pixel {
    double x, y;
  };
  Pixel project(const Vec3& p) const;
  /// Draws the surface; `colour(triangle, point)` is its colour before shading.
  void draw(Canvas& canvas, const Surface& surface, Colour background,
            const std::function<Colour(int, const Vec3&)>& colour) const;

 private:
  Vec3 eye_, right_, up_, middle_;
  double metres_per_pixel_ = 1, near_ = 0, far_ = 0;
  PixelFrame frame_;
};

}  // namespace dunefield
