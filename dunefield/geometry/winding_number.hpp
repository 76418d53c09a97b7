// Generalized winding number of a set of triangles, by a tree with far-field dipoles.
// Jacobson, Kavan, Sorkine-Hornung 2013; hierarchical evaluation after Barill et al. 2018.
#pragma once

#include <array>
#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

class WindingNumber {
 public:
  /// @param triangles the triangles of `surface` that belong to this shell
  WindingNumber(const Surface& surface, std::vector<int> triangles);

  /// 1 inside a closed, outward oriented shell, -1 inside one turned inside out, 0 outside; in between near holes.
  double at(const Vec3& p) const;
  const Box& box() const { return box_; }

 private:
  struct Node {
    Vec3 centre, dipole;
    double radius = 0;
    int first = 0, count = 0;  ///< triangles; a leaf when `left` is negative
    int left = -1, right = -1;
  };
  int build(int first, int count);
  double visit(int node, const Vec3& p) const;

  std::vector<std::array<Vec3, 3>> triangles_;
  std::vector<Node> nodes_;
  Box box_;
};

}  // namespace dunefield
