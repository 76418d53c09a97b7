// Rays against a surface, by Embree's trees in single precision; the triangle found is measured
// again in double precision.
#pragma once

#include <memory>
#include <optional>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Thread-safe after construction. The surface must outlive it.
class RayScene {
 public:
  explicit RayScene(const Surface& surface);
  ~RayScene();
  RayScene(RayScene&&) noexcept;
  RayScene& operator=(RayScene&&) noexcept;

  struct Hit {
    Vec3 point;
    Vec3 normal;          ///< of the triangle, unit length
    double distance = 0;  ///< from the start
    int triangle = -1;
  };
  /// The first triangle met on the way from `a` to `b`.
  std::optional<Hit> first_crossing(const Vec3& a, const Vec3& b) const;
  /// True if anything lies on the way from `a` to `b`.
  bool blocked(const Vec3& a, const Vec3& b) const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
