#include <gtest/gtest.h>

#include <random>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/octree/octree.hpp>

namespace dunefield {
namespace {

TEST(Morton, KeysComeBackAsPositions) {
  std::mt19937 random(1);
  for (int i = 0; i < 1000; ++i) {
    const Lattice p = {static_cast<int>(random() % 2097152), static_cast<int>(random() % 2097152),
                       static_cast<int>(random() % 2097152)};
    EXPECT_EQ(morton_position(morton_key(p)), p);
  }
}

TEST(Octree, IsBalancedOverFacesEdgesAndCorners) {
  Octree tree({0, 0, 0}, 1, 6, {3, 2, 2});
  tree.refine(
      [&](const Octree::Leaf& l) {
        return norm(tree.centre(l) - Vec3{1.03, 0.97, 1.01}) < 0.9 * tree.size(l);
      },
      1e9, {});
  tree.balance();
  double volume = 0;
  for (const auto& leaf : tree.leaves()) {
    volume += std::pow(tree.size(leaf), 3);
    for (int n = 0; n < 27; ++n) {
      const Lattice c = leaf.corner(),
                    p = {c[0] + (n % 3 - 1) * leaf.edge(), c[1] + (n / 3 % 3 - 1) * leaf.edge(),
                         c[2] + (n / 9 - 1) * leaf.edge()};
      if (!tree.holds(p)) continue;
      EXPECT_LE(tree.leaves()[at(tree.find(p))].level, leaf.level + 1);
    }
  }
  EXPECT_NEAR(volume, 12, 1e-12);
  EXPECT_GT(tree.leaves().size(), 200u);
}

}  // namespace
}  // namespace dunefield
