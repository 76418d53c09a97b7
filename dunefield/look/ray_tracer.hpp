// Rays against a scene's triangles and tubes, by Embree's trees in single precision.
#pragma once

#include <memory>
#include <optional>

#include <dunefield/look/scene.hpp>

namespace dunefield {

/// Thread-safe after construction. The scene must outlive it.
class RayTracer {
 public:
  /// @param thin radius of bundles that have none of their own, m
  /// @param towards_eye unit length
  RayTracer(const Scene& scene, double thin, const Vec3& towards_eye);
  ~RayTracer();
  RayTracer(const RayTracer&) = delete;
  RayTracer& operator=(const RayTracer&) = delete;

  struct Hit {
    double distance = 0;
    Vec3 normal;  ///< of the surface, unit length, either way
    Vec3 smooth;  ///< the same for shading
    const Sheet* sheet = nullptr;
    const Bundle* bundle = nullptr;
    double value = 0;   ///< of its quantity, where it has values
    Vec3 flow;          ///< of a sheet with streaks
    bool front = true;  ///< seen from the side that the facet's corners run round
  };
  std::optional<Hit> first(const Vec3& from, const Vec3& way, double nearest = 0) const;
  /// True if a surface lies within this distance; lines cast no shadow.
  bool blocked(const Vec3& from, const Vec3& way, double distance) const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
