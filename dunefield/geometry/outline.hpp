// Where an upright lengthwise plane cuts a vehicle: closed outlines with the parts that they cross.
#pragma once

#include <vector>

#include <dunefield/base/findings.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// A closed line in the plane, the body to its left seen from the vehicle's left (x to the right, z
/// up); y is 0.
struct OutlineLoop {
  std::vector<Vec3> points;
  std::vector<int> part_of;  ///< of the way from each point to the next: number in `part_names`

  Vec3 point(std::size_t i) const { return points[i % points.size()]; }
  double area() const;
};

struct Outline {
  std::vector<OutlineLoop> loops;  ///< none lies in another, none crosses another
  std::vector<std::string> part_names;

  Box bounds() const;
  /// The farthest that two of its points are apart, m: the chord of a profile at any incidence.
  double chord() const;
};

/// Cuts the surface at this y. Pieces that cross become one outline, what lies inside another is
/// left out.
/// @throw InputError where nothing is cut, where an outline has a gap, or one crosses itself
Outline outline_at(const Surface& surface, double y, Findings& findings);

/// Wedges of air that taper to less than `gap` between two sides of an outline are filled up to
/// where they are that wide, and told.
void fill_wedges(Outline& outline, double gap, Findings& findings);

/// The outline drawn out sideways, from y - depth / 2 to y + depth / 2, its ends open.
Surface slab(const Outline& outline, double y, double depth);

/// Twice the area of the triangle (a, b, c): positive when it turns left, seen with x to the right
/// and z up.
inline double turn(const Vec3& a, const Vec3& b, const Vec3& c) {
  return (b.x - a.x) * (c.z - a.z) - (b.z - a.z) * (c.x - a.x);
}

/// To the right of a direction in the plane: out of a body to the left of it.
inline Vec3 to_the_right(const Vec3& direction) { return {direction.z, 0, -direction.x}; }

/// Where two lines from a to b and from c to d cross, as shares of their ways.
struct Crossing {
  double of_first = 0, of_second = 0;
  bool found = false;
};
Crossing crossing(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d);

/// How often closed lines run round points, to the left. Sides are found by their height.
class Winding {
 public:
  explicit Winding(const std::vector<OutlineLoop>& loops);
  int operator()(const Vec3& point) const;

 private:
  struct Side {
    Vec3 from, to;
  };
  std::size_t row_of(double z) const;
  Box box_;
  std::vector<std::vector<Side>> rows_;
};

}  // namespace dunefield
