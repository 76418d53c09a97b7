// Generalized winding number of a set of triangles, by a tree with far-field dipoles.
// Jacobson, Kavan, Sorkine-Hornung 2013; hierarchical evaluation after Barill et al. 2018.
#pragma once

#include <cstdint>
#include <vector>

#include <dunefield/base/float8.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Thread-safe after construction.
class WindingNumber {
 public:
  /// @param triangles the triangles of `surface` that belong to this shell
  /// @param turned for each triangle of `surface`, true where it counts with its other side out;
  /// empty: none
  WindingNumber(const Surface& surface, const std::vector<int>& triangles,
                const std::vector<char>& turned = {});

  /// 1 inside a closed, outward oriented shell, -1 inside one turned inside out, 0 outside; in
  /// between near holes.
  double at(const Vec3& p) const;
  const Box& box() const { return box_; }

 private:
  static constexpr int width = 8;
  /// Eight children: where they are, how large, and their area vectors.
  struct Node {
    Float8 centre[3], area[3], far2;
  };
  /// Eight triangles, their corners seen from a place among them: single precision is then enough
  /// even for a point that nearly touches.
  struct Group {
    Float8 corner[3][3];
    Vec3 origin;
  };
  static Float8 seen_from(const Vec3& p, const Group& g);  ///< solid angles
  void make_groups(const Surface& surface, const std::vector<int>& triangles,
                   const std::vector<char>& turned);
  std::vector<Group> groups_;
  /// Leaves, whose children are groups, first
  std::vector<std::int64_t> level_start_, level_size_;
  std::vector<Node> nodes_;
  Box box_;
};

}  // namespace dunefield
