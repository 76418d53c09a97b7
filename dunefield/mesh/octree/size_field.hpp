// Leaf edges wanted place by place, by whoever knows the flow.
#pragma once

#include <cstdint>
#include <vector>

#include <dunefield/base/vec.hpp>

namespace dunefield {

/// Kept in cubes that stand still, so that it holds for any position of the octree.
class SizeField {
 public:
  /// A place where leaves shall be no larger than `size`.
  struct Wish {
    Vec3 centre;
    double width = 0;  ///< of the cube around it, m
    double size = 0;   ///< m
  };

  /// @param smallest leaf edge, m; the others are doublings of it, up to `largest`
  SizeField(double smallest, double largest, const std::vector<Wish>& wishes);

  /// The smallest edge that is wanted anywhere, m.
  double smallest() const;
  /// True if a leaf of this edge reaches into a place where a smaller one is wanted.
  bool too_large(const Vec3& centre, double edge) const;

 private:
  using Key = std::uint64_t;
  /// Cubes of this edge that hold a place where smaller leaves are wanted, in order.
  struct Level {
    double edge = 0;
    std::vector<Key> cubes;
  };
  std::vector<Level> levels_;
};

}  // namespace dunefield
