// A linear octree: leaves in Morton (space-filling curve) order over a box of root cubes.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <functional>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/base/progress.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

using Lattice = std::array<int, 3>;  ///< integer position, in units of the smallest possible leaf

std::uint64_t morton_key(const Lattice& p);
Lattice morton_position(std::uint64_t key);

/// Number of the last of `count` ascending keys that is not above `key`, sought outward from number
/// `near`; -1 if the first is above.
template <class KeyOf>
int last_not_above(int count, std::uint64_t key, int near, const KeyOf& key_of) {
  int low = near, high = near, step = 1;
  if (key_of(near) <= key) {
    for (high = near + step; high < count && key_of(high) <= key;
         high = std::min(count, high + step))
      low = high, step *= 2;
  } else {
    for (low = near - step; low >= 0 && key_of(low) > key; low = std::max(-1, low - step))
      high = low, step *= 2;
  }
  while (high - low > 1) {
    const int middle = low + (high - low) / 2;
    (key_of(middle) <= key ? low : high) = middle;
  }
  return low;
}

class Octree {
 public:
  struct Leaf {
    std::uint64_t key;   ///< Morton key of the lower corner
    std::uint8_t level;  ///< the edge is 2^level units
    Lattice corner() const { return morton_position(key); }
    int edge() const { return 1 << level; }
  };

  /// @param origin lower corner of the box
  /// @param root_size edge of a root cube; `levels` halvings give the unit
  /// @param roots number of root cubes along each axis
  Octree(const Vec3& origin, double root_size, int levels, const Lattice& roots);

  /// Splits every leaf for which `wanted` is true, again and again, down to the unit. `wanted` is
  /// called from many threads.
  /// @throw InputError before there would be more leaves than `most`
  void refine(const std::function<bool(const Leaf&)>& wanted, double most,
              const Progress& progress);
  /// Neighbours over faces, edges and corners then differ by one level at most.
  void balance();
  /// Splits the leaves flagged (if they are larger than the unit). @return true if any was
  bool split(const std::vector<char>& flagged);

  const std::vector<Leaf>& leaves() const { return leaves_; }
  /// Number of the leaf that holds the unit cube at `p`, which must lie in the box.
  /// @param near a leaf to seek from: neighbours in space are mostly near in the order
  int find(const Lattice& p, int near = 0) const {
    return last_not_above(static_cast<int>(leaves_.size()), morton_key(p), near,
                          [&](int i) { return leaves_[at(i)].key; });
  }
  double unit() const { return unit_; }
  const Lattice& extent() const { return extent_; }
  bool holds(const Lattice& p) const;
  Vec3 position(const Lattice& p) const {
    return origin_ + Vec3{p[0] * unit_, p[1] * unit_, p[2] * unit_};
  }
  Vec3 centre(const Leaf& leaf) const;
  double size(const Leaf& leaf) const { return unit_ * leaf.edge(); }
  Box box() const { return {origin_, position(extent_)}; }

 private:
  /// `pending` follows the leaves: kept where a leaf stays, set for new ones.
  bool split(const std::vector<char>& flagged, std::vector<char>& pending);

  Vec3 origin_;
  double unit_;
  Lattice extent_;
  std::vector<Leaf> leaves_;
};

}  // namespace dunefield
