// The sharp edges of a vehicle that the air can reach.
#pragma once

#include <optional>
#include <vector>

#include <dunefield/geometry/folds.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/mesh/octree/solid_field.hpp>

namespace dunefield {

/// Angle between facets (rad) from which on their edge is sharp, and not part of a curve.
inline constexpr double sharp_angle = 40 * 3.14159265358979323846 / 180;
/// Angle from which on facets lie back to back and bound nothing.
inline constexpr double folded_angle = 178 * 3.14159265358979323846 / 180;

/// A line is kept as a triangle without width: the nearest-point search then serves for lines and
/// points, too.
void add_line(Surface& lines, const Vec3& a, const Vec3& b);

class SharpLines {
 public:
  /// Edges hidden in other parts are left out.
  SharpLines(const Surface& vehicle, const SolidField& solid);
  /// The point of a sharp edge nearest to `p`, no farther than `reach`.
  std::optional<Vec3> nearest(const Vec3& p, double reach) const;
  /// The same with the rims of sheets, and edges so sharp that their facets lie back to back.
  std::optional<Vec3> nearest_rim(const Vec3& p, double reach) const;
  /// A corner of a rim in the box, the nearest to `p`.
  std::optional<Vec3> rim_corner(const Vec3& p, const Box& within) const;

 private:
  SharpLines(const Surface& vehicle, const SolidField& solid, const std::vector<Fold>& folds);
  Surface rim_lines_;
  NearestTree sharp_, rims_, corners_;
};

}  // namespace dunefield
