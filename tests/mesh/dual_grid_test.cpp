// The corners of an octree's leaves, the edges between them, and their signs.
#include <algorithm>
#include <set>

#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/dual/dual_grid.hpp>

namespace dunefield {
namespace {

Octree refined_in_a_corner() {
  Octree tree({0, 0, 0}, 1, 3, {2, 1, 1});
  for (int i = 0; i < 3; ++i) {
    tree.refine(
        [&](const Octree::Leaf& leaf) {
          return tree.size(leaf) > 0.13 &&
                 norm(tree.centre(leaf) - Vec3{0.9, 0.1, 0.1}) < 1.2 * tree.size(leaf);
        },
        1e6, {});
    tree.balance();
  }
  return tree;
}

TEST(LastNotAbove, FindsTheSameFromWhereverItStarts) {
  const std::vector<std::uint64_t> keys = {2, 3, 5, 8, 13, 21, 34, 55};
  for (std::uint64_t key = 0; key < 60; ++key)
    for (int near = 0; near < 8; ++near) {
      const auto expected =
          static_cast<int>(std::upper_bound(keys.begin(), keys.end(), key) - keys.begin()) - 1;
      EXPECT_EQ(last_not_above(8, key, near, [&](int i) { return keys[at(i)]; }), expected)
          << key << " from " << near;
    }
}

TEST(DualGrid, HoldsEveryCornerOfEveryLeafOnce) {
  const Octree tree = refined_in_a_corner();
  const DualGrid grid = make_dual_grid(tree, SolidField(Surface{}, {}, 0));
  std::set<std::uint64_t> corners;
  for (const auto& leaf : tree.leaves()) {
    const Lattice c = leaf.corner();
    for (int o = 0; o < 8; ++o)
      corners.insert(morton_key({c[0] + (o & 1 ? leaf.edge() : 0), c[1] + (o & 2 ? leaf.edge() : 0),
                                 c[2] + (o & 4 ? leaf.edge() : 0)}));
  }
  ASSERT_EQ(grid.vertices.size(), corners.size());
  EXPECT_TRUE(std::equal(corners.begin(), corners.end(), grid.vertices.begin(),
                         [](std::uint64_t key, const DualVertex& v) { return v.key == key; }));
}

TEST(DualGrid, EdgesRunUpwardsBetweenNeighbours) {
  const Octree tree = refined_in_a_corner();
  const DualGrid grid = make_dual_grid(tree, SolidField(Surface{}, {}, 0));
  ASSERT_FALSE(grid.edges.empty());
  for (const DualEdge& e : grid.edges) {
    const Lattice &a = grid.vertices[at(e.from)].place, &b = grid.vertices[at(e.to)].place;
    for (int axis = 0; axis < 3; ++axis) {
      const auto i = static_cast<std::size_t>(axis);
      if (axis == e.axis) {
        EXPECT_GT(b[i], a[i]);
      } else {
        EXPECT_EQ(b[i], a[i]);
      }
    }
  }
}

TEST(DualGrid, APlateHasNoHoleWhereLeavesChangeSize) {
  // Small leaves, which have a corner in the plate, below it, large ones, which may have none,
  // around it.
  constexpr double large = 1.0 / 8, under = 0.51, over = 0.58;
  static_assert(over - under > 1.1 * large / 2 && over - under < large);
  Octree tree({0, 0, 0}, 1, 4, {1, 1, 1});
  tree.refine(
      [&](const Octree::Leaf& leaf) {
        return tree.size(leaf) > (tree.centre(leaf).z < 0.5 ? large / 2 : large) * 1.01;
      },
      1e6, {});
  tree.balance();
  const double middle = 0.5 * (under + over);
  const SolidField solid(
      plate("plate", {{-1, -1, middle}, {2, -1, middle}}, {0, 3, 0}, over - under), {}, 0);
  const DualGrid grid = make_dual_grid(tree, solid);
  int thin = 0;
  for (std::size_t i = 0; i < grid.edges.size(); ++i) {
    const DualEdge& e = grid.edges[i];
    const double from = tree.position(grid.vertices[at(e.from)].place).z,
                 to = tree.position(grid.vertices[at(e.to)].place).z;
    const bool across =
        from < middle && to > middle && !grid.solid[at(e.from)] && !grid.solid[at(e.to)];
    EXPECT_EQ(grid.thin_wall[i] != 0, across) << from << " to " << to;
    thin += across;
  }
  EXPECT_GT(thin, 10);
  EXPECT_EQ(make_dual_grid(tree, solid, grid).thin_wall, grid.thin_wall) << "known already";
}

TEST(DualGrid, SignsAreThoseOfTheField) {
  const Surface ball = sphere("ball", {1, 0.5, 0.5}, 0.3, 48);
  const SolidField solid(ball, {}, 0);
  Octree tree({0, 0, 0}, 1, 4, {2, 1, 1});
  tree.refine([&](const Octree::Leaf& leaf) { return tree.size(leaf) > 0.07; }, 1e6, {});
  const DualGrid grid = make_dual_grid(tree, solid);
  int inside = 0;
  for (std::size_t i = 0; i < grid.vertices.size(); ++i) {
    const double r = norm(tree.position(grid.vertices[i].place) - Vec3{1, 0.5, 0.5});
    if (std::abs(r - 0.3) < 0.01) continue;
    EXPECT_EQ(grid.solid[i] != 0, r < 0.3) << r;
    inside += grid.solid[i];
  }
  EXPECT_GT(inside, 10);
  // Asked again with what is known already, the answers are the same.
  EXPECT_EQ(make_dual_grid(tree, solid, grid).solid, grid.solid);
}

}  // namespace
}  // namespace dunefield
