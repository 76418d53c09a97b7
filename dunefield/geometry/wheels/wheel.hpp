// Wheels: found by shape, fitted, and turned with the road.
#pragma once

#include <string>
#include <vector>

#include <dunefield/base/findings.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct Wheel {
  std::string part;
  Vec3 centre;         ///< middle of the wheel on its axle
  Vec3 axis{0, 1, 0};  ///< unit, pointing to the vehicle's right
  double radius = 0;   ///< unloaded, to the farthest point of the tread
  double width = 0;    ///< along the axis
  /// Root mean square of the sine between facet normals and those of a body of revolution
  double fit_error = 0;

  /// Axle height above the road: the rolling radius.
  double loaded_radius() const { return centre.z; }
  /// Angular velocity for a road that moves rearward (+x) at `road_speed`: the tread at the road
  /// follows it.
  Vec3 spin(double road_speed) const { return axis * (-road_speed / loaded_radius()); }
};

/// Fits a body of revolution to some triangles: the axis is the least-squares fixed line of their
/// normals (Pottmann and Randrup 1998).
Wheel fit_wheel(const Surface& surface, const std::vector<int>& triangles);
/// The same for one part.
Wheel fit_wheel(const Surface& surface, int part);

/// Wheels that are hidden in larger parts as connected pieces (tyres, with what turns inside them)
/// become parts of their own, named after their axle and side ("wheel front left"). @return what
/// was done, a note for each
Findings separate_wheels(Surface& surface);

/// The parts that are bodies of revolution about a crosswise axle and reach down to the lowest
/// point of the surface.
std::vector<Wheel> find_wheels(const Surface& surface);

/// A wheel given in numbers. Facets of `from_part` (empty: of any part but a wheel's) that lie
/// within its cylinder become the part `wheel.part`. @throw InputError if there are none, or the
/// axis is not crosswise
void cut_out_wheel(Surface& surface, Wheel& wheel, const std::string& from_part,
                   const std::string& where);

/// Whether the axle is as high above the road as the wheel's radius, within 5 %: else the tread
/// would miss the road's speed.
bool meets_road(const Wheel& wheel);

/// Speed of the tread where it meets the road, rearward positive, when turning with `spin` (rad/s).
double tread_speed(const Wheel& wheel, const Vec3& spin);

/// @throw InputError when the tread at the road moves against the road, or by more than 5 % slower
/// or faster than it
void check_spin(const Wheel& wheel, const Vec3& spin, double road_speed, const std::string& where);

/// The wheel of a part the user names. @throw InputError when there is no such part or it is no
/// body of revolution
Wheel named_wheel(const Surface& surface, const std::string& part, const std::string& where);

/// Distance between the foremost and the rearmost axle; 0 with fewer than two axles.
double wheelbase_of(const std::vector<Wheel>& wheels);

}  // namespace dunefield
