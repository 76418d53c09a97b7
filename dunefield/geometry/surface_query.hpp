// Spatial queries on a surface: nearest point, first crossing of a segment, inside.
#pragma once

#include <memory>
#include <optional>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Thread-safe after construction. Keeps its own copy of what it needs.
class SurfaceQuery {
 public:
  explicit SurfaceQuery(const Surface& surface);
  ~SurfaceQuery();
  SurfaceQuery(SurfaceQuery&&) noexcept;
  SurfaceQuery& operator=(SurfaceQuery&&) noexcept;

  struct Hit {
    Vec3 point;
    Vec3 normal;           ///< of the triangle, unit length
    double distance = 0;   ///< from the query point
    int triangle = -1;
  };
  /// The nearest surface point within `reach`; none if there is nothing that near.
  std::optional<Hit> nearest(const Vec3& p, double reach) const;
  /// The first triangle met on the way from `a` to `b`.
  std::optional<Hit> first_crossing(const Vec3& a, const Vec3& b) const;
  /// True inside the union of the surface's connected pieces, each by its winding number (> 1/2 in size).
  bool inside(const Vec3& p) const;
  /// True if the triangle belongs to a piece with open edges.
  bool is_open(int triangle) const;
  const Surface& surface() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
