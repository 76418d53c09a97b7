// Spatial queries on a surface: nearest point, first crossing of a segment, inside.
#pragma once

#include <memory>
#include <optional>

#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/query/shells.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Thread-safe after construction. Keeps its own copy of what it needs.
class SurfaceQuery {
 public:
  /// @param sheet_parts per part, true where there is air on both sides of its facets; empty: found
  /// by visibility
  explicit SurfaceQuery(const Surface& surface, const std::vector<char>& sheet_parts = {});
  ~SurfaceQuery();
  SurfaceQuery(SurfaceQuery&&) noexcept;
  SurfaceQuery& operator=(SurfaceQuery&&) noexcept;

  using Hit = RayScene::Hit;
  /// The nearest surface point within `reach`; none if there is nothing that near.
  std::optional<Hit> nearest(const Vec3& p, double reach) const;
  /// True where `nearest` finds something; sooner.
  bool within(const Vec3& p, double reach) const;
  /// The first triangle met on the way from `a` to `b`.
  std::optional<Hit> first_crossing(const Vec3& a, const Vec3& b) const;
  /// True inside the surface, however dirty: doubled facets do not count, facets are turned outward
  /// by visibility, and solid is what has a winding number over 1/2 about any one shell, or about
  /// all that are open together (which bridges their holes).
  bool inside(const Vec3& p) const;
  /// True if the triangle belongs to a sheet or to a shell with open edges: there may be air on
  /// both its sides.
  bool is_open(int triangle) const;
  /// True if any triangle is open.
  bool any_open() const;
  const Surface& surface() const;
  const Shells& shells() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
