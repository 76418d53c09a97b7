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
    bool assumed = false;  ///< no surface lies there: a rod is thickened or a hole bridged
  };
  /// Inside the vehicle, or in a rod that is taken as thick as `cell`: one thinner than that in two
  /// directions would slip between the points that are asked for. With no cell size rods do not
  /// count.
  bool inside(const Vec3& p, double cell) const;
  /// True if a wall stands between two places in the air: a sheet, or a plate thinner than the way.
  /// A ridge that pokes into the way parts nothing.
  bool thin_wall_between(const Vec3& a, const Vec3& b) const;
  /// Where the way from `air` first meets the vehicle: on the way to a place inside (as `inside`
  /// says with the same cell size) or through a thin wall.
  Crossing crossing(const Vec3& air, const Vec3& end, double cell) const;
  /// The surface point nearest to `p` within `reach`, its normal turned along `outward` (unit). Of
  /// the two sides of a thin plate the one that faces that way.
  std::optional<Crossing> project(const Vec3& p, double reach, const Vec3& outward) const;
  /// The nearest place where a plate ends, along itself from a place inside it; none within `most`,
  /// or where the place is not inside.
  /// @param across unit; the way through the plate
  std::optional<Vec3> plate_end(const Vec3& middle, const Vec3& across, double most) const;
  /// How far off a sheet there is air: so near, or, behind a film of what only counts as inside
  /// and no wall ends, so far.
  struct Beside {
    double near, far;
  };
  /// True if a surface within `beside.near` of `p` is a sheet there, with air beside both its
  /// sides.
  bool is_sheet(const Vec3& p, const Beside& beside) const;
  /// Distance to the nearest surface, no more than `most`.
  double clearance(const Vec3& p, double most) const;
  /// True if any surface lies within `reach`.
  bool surface_near(const Vec3& p, double reach) const;

 private:
  Vec3 lifted(const Vec3& p) const { return {p.x, p.y, std::max(p.z, plinth_height_)}; }
  /// @param across unit; the way through the surface there
  static bool is_sheet(const SurfaceQuery& query, const SurfaceQuery::Hit& hit, const Vec3& across,
                       const Beside& beside);
  static std::optional<double> far_side(const SurfaceQuery& query, const Vec3& start,
                                        const Vec3& inward, double most);
  static std::vector<Vec3> sides_around(const SurfaceQuery& query, const Vec3& middle, double most);
  static bool is_narrow_at(const SurfaceQuery& query, Vec3 from, const Vec3& across, bool sheet,
                           double most, Vec3& inner);
  static bool is_narrow(const SurfaceQuery& query, const Vec3& middle, const Vec3& across,
                        bool sheet, double most);
  struct Solids {
    const SurfaceQuery& query;
    const std::vector<double>& piece_size;
  };
  static bool in_thin_rod(const Solids& of, const Vec3& p, double cell);
  static bool thin_wall_between(const SurfaceQuery& query, const Vec3& a, const Vec3& b);
  static std::optional<SurfaceQuery::Hit> nearest_facing(const SurfaceQuery& query, const Vec3& p,
                                                         double reach, const Vec3& outward);
  Crossing crossing_of(const SurfaceQuery::Hit& hit, const std::vector<int>& parts,
                       const SurfaceQuery& query) const;

  SurfaceQuery body_, standing_;
  std::vector<int> body_parts_, standing_parts_;  ///< part numbers of the vehicle
  std::vector<double> body_piece_size_, standing_piece_size_;
  double plinth_height_;
  Box bounds_;
};

}  // namespace dunefield
