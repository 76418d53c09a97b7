// What a recipe comes to for a vehicle.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/recipe.hpp>

namespace dunefield::test {
namespace {

const Box van{{-2.6, -1.2, 0}, {2.6, 1.2, 2.2}};

MeshOptions of(const Recipe& r) { return mesh_options(r, {van}, "test"); }

TEST(Recipe, FinerOnesHaveSmallerLeavesAndTheSameLayers) {
  const MeshOptions scout = of(recipe("scout")), standard = of(recipe("standard")),
                    fine = of(recipe("fine"));
  EXPECT_GT(scout.surface_size, standard.surface_size);
  EXPECT_GT(standard.surface_size, fine.surface_size);
  for (const MeshOptions& o : {scout, standard, fine}) {
    EXPECT_EQ(o.layers.count, 5);
    EXPECT_NEAR(o.layers.total_leaves, 0.7, 1e-12);
    EXPECT_EQ(o.boxes.size(), 3u) << "wake, far wake, under-floor";
    EXPECT_LE(o.smallest_size, o.edge_size);
  }
  EXPECT_THROW(recipe("sketchy"), InputError);
  Recipe wrong;
  wrong.name = "sketchy";
  EXPECT_THROW(of(wrong), InputError);
}

TEST(Recipe, AGivenSurfaceSizeTakesTheOthersWithIt) {
  Recipe r = recipe("scout");
  const MeshOptions before = of(r);
  r.surface_size = 2 * before.surface_size;
  const MeshOptions after = of(r);
  EXPECT_NEAR(after.largest_size, 2 * before.largest_size, 1e-12);
  EXPECT_NEAR(after.edge_size, 2 * before.edge_size, 1e-12);
  EXPECT_NEAR(after.smallest_size, 2 * before.smallest_size, 1e-12);
  for (std::size_t i = 0; i < before.boxes.size(); ++i)
    EXPECT_NEAR(after.boxes[i].size, 2 * before.boxes[i].size, 1e-12);
}

TEST(Recipe, WhatIsGivenGoesFirst) {
  Recipe r = recipe("scout");
  r.smallest_size = 0.003, r.edge_size = 0.004;
  r.cells_per_turn = 50, r.gap_cells = 7, r.thin_cells = 2;
  r.part_size["mirror"] = 0.005, r.sheet_parts = {"flag"};
  r.boxes.push_back({"mine", Box{{0, 0, 0}, {1, 1, 1}}, 0.02});
  r.lattice_shift = {0.5, 0, 0};
  const MeshOptions o = of(r);
  EXPECT_EQ(o.smallest_size, 0.003);
  EXPECT_EQ(o.slot_halvings, 0) << "a smallest size that is given is the smallest";
  EXPECT_EQ(o.leading_halvings, 0);
  EXPECT_EQ(o.edge_size, 0.004);
  EXPECT_EQ(o.cells_per_turn, 50);
  EXPECT_EQ(o.gap_cells, 7);
  EXPECT_EQ(o.thin_cells, 2);
  EXPECT_EQ(o.part_size.at("mirror"), 0.005);
  EXPECT_EQ(o.sheet_parts.at(0), "flag");
  EXPECT_EQ(o.boxes.back().name, "mine");
  EXPECT_EQ(o.lattice_shift.x, 0.5);
}

TEST(Recipe, LayersTakeOneHeight) {
  Recipe r = recipe("scout");
  r.layers.first_height = 0.001;
  EXPECT_EQ(of(r).layers.first_height, 0.001);
  EXPECT_EQ(of(r).layers.total_leaves, 0) << "and not the recipe's thickness";
  r.layers = {};
  r.layers.total = 0.01, r.layers.count = 3, r.layers.growth = 1.5;
  EXPECT_NEAR(of(r).layers.first_height * (1 + 1.5 + 2.25), 0.01, 1e-15);
  r.layers = {};
  r.layers.count = 0;
  EXPECT_EQ(of(r).layers.count, 0);
}

TEST(Recipe, ABodyHighInTheAirNeedsNoCellsUnderIt) {
  const Box wing{{-0.25, -1.3, 4}, {0.25, 1.3, 4.1}};
  EXPECT_EQ(mesh_options(recipe("scout"), {wing}, "").boxes.size(), 2u);
  EXPECT_GT(mesh_options(recipe("scout"), {wing}, "").boxes[0].box.lo.z, 3.5);
}

}  // namespace
}  // namespace dunefield::test
