// Leaf edges that are wanted place by place.
#include <gtest/gtest.h>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/mesh/octree/size_field.hpp>

namespace dunefield::test {
namespace {

TEST(SizeField, ReachesWhereASmallerLeafIsWantedAndNoFarther) {
  const SizeField field(0.01, 0.64, {{{1, 0.1, 0.3}, 0.08, 0.02}, {{-1, 0, 0.5}, 0.4, 0.08}});
  EXPECT_DOUBLE_EQ(field.smallest(), 0.02);
  EXPECT_TRUE(field.too_large({1, 0.1, 0.3}, 0.04));
  EXPECT_FALSE(field.too_large({1, 0.1, 0.3}, 0.02));
  EXPECT_TRUE(field.too_large({1.2, 0.1, 0.3}, 0.64)) << "a leaf that holds the place";
  EXPECT_FALSE(field.too_large({1.2, 0.1, 0.3}, 0.04));
  EXPECT_TRUE(field.too_large({-1.15, 0.1, 0.4}, 0.16));
  EXPECT_FALSE(field.too_large({-1.15, 0.1, 0.4}, 0.08));
  EXPECT_FALSE(SizeField(0.01, 0.64, {}).too_large({0, 0, 0}, 0.64));
}

TEST(SizeField, PutsCellsWhereTheyAreWanted) {
  const Surface body = rounded_box("body", Box{{-0.5, -0.2, 0.1}, {0.5, 0.2, 0.5}}, 0.1);
  const Box place{{0.8, -0.1, 0.2}, {1.4, 0.1, 0.4}};
  const auto cells_there = [&](const MeshOptions& o, double under) {
    const VolumeMesh m = build_mesh(body, Box{{-1.5, -1, 0}, {2.5, 1, 1.6}}, o).mesh;
    int n = 0;
    for (std::size_t c = 0; c < m.cell_centre.size(); ++c)
      n += place.contains(m.cell_centre[c], 0) && m.cell_volume[c] < under;
    return n;
  };
  MeshOptions o;
  o.surface_size = 0.08, o.smallest_size = 0.04, o.largest_size = 0.32, o.layers.count = 0;
  const double half_leaf = std::pow(0.05, 3);
  EXPECT_EQ(cells_there(o, half_leaf), 0);
  o.field = std::make_shared<const SizeField>(
      0.04, 0.32, std::vector<SizeField::Wish>{{{1.1, 0, 0.3}, 0.3, 0.04}});
  const double wanted = std::pow(0.3 / 0.04, 2) * 0.2 / 0.04;
  EXPECT_GT(cells_there(o, half_leaf), 0.7 * wanted);
  o.lattice_shift = {0.38, 0.38, 0};
  EXPECT_GT(cells_there(o, half_leaf), 0.7 * wanted) << "wherever the octree stands";
}

}  // namespace
}  // namespace dunefield::test
