// Squares of the air of a section, halved until they are as small as their places ask for.
#pragma once

#include <cstdint>
#include <functional>
#include <unordered_map>
#include <vector>

#include <dunefield/base/vec.hpp>

namespace dunefield {

/// Leaves are told in units of the smallest possible edge, from the lower left corner. No two
/// leaves with a common side differ by more than a factor of two.
class Quadtree {
 public:
  struct Leaf {
    int x = 0, z = 0, edge = 1;
  };

  /// @param root edge of a square, of which there are roots_x along x and roots_z along z
  /// @param levels halvings of a root at most
  Quadtree(const Vec3& origin, double root, int levels, int roots_x, int roots_z);

  /// Halves leaves for which `too_large` is true, then what balance needs; several at once.
  void refine(const std::function<bool(const Vec3& centre, double edge)>& too_large);

  const std::vector<Leaf>& leaves() const { return leaves_; }
  double unit() const { return unit_; }
  /// Corners of the tree, in units.
  int width() const { return width_; }
  int height() const { return height_; }
  Vec3 place(int x, int z) const { return {origin_.x + x * unit_, 0, origin_.z + z * unit_}; }
  Vec3 centre(const Leaf& l) const {
    return place(l.x, l.z) + Vec3{0.5, 0, 0.5} * (l.edge * unit_);
  }
  double size(const Leaf& l) const { return l.edge * unit_; }
  Box box() const;
  /// The number of the leaf that has a unit's square, given by its lower left corner; -1: outside.
  int leaf_with(int x, int z) const;
  /// The number of the leaf at a place.
  int leaf_at(const Vec3& place) const;

 private:
  static std::uint64_t key(int x, int z, int edge);
  bool split(const std::vector<char>& wanted);
  void number();

  Vec3 origin_;
  double unit_;
  int root_edge_, width_, height_;
  std::vector<Leaf> leaves_;
  std::unordered_map<std::uint64_t, int> number_of_;
};

}  // namespace dunefield
