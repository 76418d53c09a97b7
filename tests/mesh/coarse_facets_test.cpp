// Curves of a file whose facets are wider than the cells.
#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/mesh/octree/coarse_facets.hpp>

namespace dunefield {
namespace {

constexpr double leaf = 0.1;

/// A drum of radius 1 in leaves of one size.
CoarseFacets of_drum(int facets) {
  const Octree octree({-2, -2, -2}, leaf, 0, {40, 40, 40});
  return coarse_facets(cylinder("drum", {0, -1, 0}, {0, 1, 0}, 1, facets), octree);
}

TEST(CoarseFacets, OfACurveAreFoundWhereSeveralCellsFitOnOne) {
  const CoarseFacets all = of_drum(16);
  EXPECT_NEAR(all.share, 2.0 / 3, 0.01) << "the ends are half as large as the curve";
  EXPECT_NEAR(all.largest_angle, std::numbers::pi / 8, 1e-6);
  EXPECT_NEAR(all.width, 2 * std::sin(std::numbers::pi / 16), 1e-6);
  EXPECT_EQ(all.leaf, leaf);
  EXPECT_NEAR(std::hypot(all.place.x, all.place.z), 1, 1e-6);
}

TEST(CoarseFacets, AreNoneWhereCellsAreAsWideOrFacetsArePanels) {
  EXPECT_EQ(of_drum(32).area, 0) << "196 mm on leaves of 100";
  EXPECT_EQ(of_drum(8).area, 0) << "corners";
  const Octree small({-2, -2, -2}, 0.05, 0, {80, 80, 80});
  EXPECT_EQ(coarse_facets(cylinder("drum", {0, -1, 0}, {0, 1, 0}, 1, 16), small).area, 0)
      << "panels of eight cells";
}

TEST(CoarseFacets, AreToldWithTheMesh) {
  const auto told = [](int facets) {
    MeshOptions o;
    o.surface_size = 0.1, o.largest_size = 0.4, o.edge_size = 0, o.cells_per_turn = 0;
    const Surface drum = cylinder("drum", {0, -0.6, 1.5}, {0, 0.6, 1.5}, 1, facets);
    for (const Finding& f : build_mesh(drum, Box{{-3, -2, 0}, {3, 2, 3.2}}, o).findings)
      if (f.id == "mesh.coarse-facets") return true;
    return false;
  };
  EXPECT_TRUE(told(16));
  EXPECT_FALSE(told(96));
}

}  // namespace
}  // namespace dunefield
