// Where points of the tunnel come to lie in a picture, and the ray through each pixel.
#pragma once

#include <optional>

#include <dunefield/look/image.hpp>
#include <dunefield/look/scene.hpp>

namespace dunefield {

class Camera {
 public:
  /// The scene's frame fills the rectangle.
  Camera(const Scene& scene, const PixelFrame& frame);

  struct Ray {
    Vec3 from, way;  ///< way: unit vector
  };
  Ray ray(double px, double py) const;
  struct Pixel {
    double x = 0, y = 0, distance = 0;
  };
  /// None behind the eye.
  std::optional<Pixel> project(const Vec3& p) const;
  /// Size of a pixel at what is looked at, m.
  double metres_per_pixel() const { return metres_per_pixel_; }
  const Vec3& towards_eye() const { return eye_; }
  const Vec3& right() const { return right_; }
  const Vec3& up() const { return up_; }

 private:
  Vec3 eye_, right_, up_, middle_, at_;
  PixelFrame frame_;
  bool perspective_ = false;
  double metres_per_pixel_ = 1, distance_ = 1, shift_x_ = 0, shift_y_ = 0;
};

}  // namespace dunefield
