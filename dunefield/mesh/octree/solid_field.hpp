// What is solid: the vehicle's inside, and under each wheel a plinth that closes the wedge between
// tyre and road.
#pragma once

#include <optional>
#include <vector>

#include <dunefield/geometry/query/surface_query.hpp>

namespace dunefield {

class SolidField {
 public:
  /// @param vehicle placed surface
  /// @param plinth_parts parts that stand on the road: below `plinth_height` they continue straight
  /// down
  /// @param sheet_parts parts with air on both sides
  SolidField(const Surface& vehicle, const std::vector<int>& plinth_parts, double plinth_height,
             const std::vector<int>& sheet_parts = {});

  /// Of the vehicle and what stands under it: nothing outside is solid.
  const Box& bounds() const { return bounds_; }

  struct Crossing {
    Vec3 point;
    Vec3 normal;  ///< unit, towards the air
    int part = 0;
    bool assumed = false;  ///< no surface lies there: a plate is thickened or a hole bridged
  };
  /// Inside the vehicle, or within half of `least_thickness` of the middle of a sheet or of a plate
  /// thinner than that: such plates would slip between the points that are asked for.
  bool inside(const Vec3& p, double least_thickness) const;
  /// Where the way from air to solid (as told by `inside` with the same thickness) enters the
  /// solid.
  Crossing crossing(const Vec3& air, const Vec3& solid, double least_thickness) const;
  /// The surface point nearest to `p` within `reach`, its normal turned along `outward`.
  std::optional<Crossing> project(const Vec3& p, double reach, const Vec3& outward) const;
  /// How far off a sheet there is air: so near, or, behind a film of what only counts as inside
  /// and no wall ends, so far.
  struct Beside {
    double near, far;
  };
  /// True if a surface within `beside.near` of `p` is a sheet there, with air beside both its
  /// sides.
  bool is_sheet(const Vec3& p, const Beside& beside) const;
  /// True if any surface lies within `reach`.
  bool surface_near(const Vec3& p, double reach) const;

 private:
  Vec3 lifted(const Vec3& p) const { return {p.x, p.y, std::max(p.z, plinth_height_)}; }
  /// @param across unit; the way through the surface there
  static bool is_sheet(const SurfaceQuery& query, const SurfaceQuery::Hit& hit, const Vec3& across,
                       const Beside& beside);
  struct FarSide {
    double depth;
    Vec3 normal;  ///< of the wall there
  };
  static std::optional<FarSide> far_side(const SurfaceQuery& query, const Vec3& start,
                                         const Vec3& inward, double most);
  enum class Sides { any, parallel };
  static bool thin_behind(const SurfaceQuery& query, const SurfaceQuery::Hit& hit,
                          const Vec3& inward, double least_thickness, Sides sides);
  static bool in_thin_plate(const SurfaceQuery& query, const Vec3& p, double least_thickness);
  Crossing crossing_of(const SurfaceQuery::Hit& hit, const std::vector<int>& parts,
                       const SurfaceQuery& query) const;

  SurfaceQuery body_, standing_;
  std::vector<int> body_parts_, standing_parts_;  ///< part numbers of the vehicle
  double plinth_height_;
  Box bounds_;
};

}  // namespace dunefield
