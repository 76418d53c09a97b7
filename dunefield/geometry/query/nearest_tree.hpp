// The nearest point of a surface: a packed tree of oriented boxes, eight children a node.
// Boxes that lie along the surface (Gottschalk, Lin, Manocha 1996) keep the search narrow even far
// from a smooth surface.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include <dunefield/base/float8.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Nearest point of a triangle (Ericson 2005, section 5.1.5).
Vec3 nearest_on_triangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c);

/// Thread-safe after construction.
class NearestTree {
 public:
  explicit NearestTree(const Surface& surface);

  struct Found {
    Vec3 point;
    double distance = 0;
    int triangle = -1;  ///< -1: nothing within reach
  };
  /// Of several equally near triangles the first.
  Found nearest(const Vec3& p, double reach) const;
  /// True where `nearest` finds something; sooner, since it need not be the nearest.
  bool within(const Vec3& p, double reach) const;

 private:
  static constexpr int width = 8;
  /// Eight boxes: middle, two axes (the third is their cross product), half sizes.
  struct Node {
    Float8 middle[3], normal[3], along[3], half[3];
  };
  /// Eight triangles: a corner, and the edges from it to the two others.
  struct Group {
    Float8 corner[3], ab[3], ac[3];
  };
  class Search;
  Node box_of(std::size_t first, std::size_t group) const;
  std::vector<std::array<Vec3, 3>> triangles_;  ///< in the tree's order
  std::vector<std::int32_t> number_;
  std::vector<Group> groups_;
  double rounding_ = 0;  ///< of a coordinate in single precision
  /// The lowest level's children are groups of eight triangles
  std::vector<std::int64_t> level_start_, level_size_;
  std::vector<Node> nodes_;
};

}  // namespace dunefield
