// A linear octree: leaves in Morton (space-filling curve) order over a box of root cubes.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

using Lattice = std::array<int, 3>;  ///< integer position, in units of the smallest possible leaf

std::uint64_t morton_key(const Lattice& p);
Lattice morton_position(std::uint64_t key);

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

  /// Splits every leaf for which `wanted` is true, again and again, down to the unit. `wanted` is called from many threads.
  /// @throw InputError before there would be more leaves than `most`
  void refine(const std::function<bool(const Leaf&)>& wanted, double most, const Progress& progress);
  /// Neighbours over faces, edges and corners then differ by one level at most.
  void balance();
  /// Splits the leaves flagged (if they are larger than the unit). @return true if any was
  bool split(const std::vector<char>& flagged);

  const std::vector<Leaf>& leaves() const { return leaves_; }
  /// Number of the leaf that holds the unit cube at `p`, which must lie in the box.
  int find(const Lattice& p) const;
  double unit() const { return unit_; }
  const Lattice& extent() const { return extent_; }
  bool holds(const Lattice& p) const;
  Vec3 position(const Lattice& p) const { return origin_ + Vec3{p[0] * unit_, p[1] * unit_, p[2] * unit_}; }
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
