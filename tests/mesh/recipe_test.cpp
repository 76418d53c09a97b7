// What a recipe comes to for a vehicle.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/recipe.hpp>
#include <dunefield/mesh/wheel_boxes.hpp>

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

TEST(Recipe, TheAirAboutCoarseWheelsIsFiner) {
  Wheel w;
  w.part = "wheel", w.centre = {1.6, 0.8, 0.32}, w.radius = 0.33, w.width = 0.2;
  const auto boxes = boxes_about({w}, 0.04);
  ASSERT_EQ(boxes.size(), 1u);
  EXPECT_EQ(boxes[0].size, 0.02);
  EXPECT_EQ(boxes[0].box.lo.z, 0) << "down to the road";
  for (const Vec3& corner : {Vec3{1.6 - 0.4, 0.65, 0.1}, Vec3{1.6 + 0.4, 0.95, 0.7}})
    EXPECT_TRUE(boxes[0].box.contains(corner));
  EXPECT_FALSE(boxes[0].box.contains({1.6, 0.4, 0.3}));
  EXPECT_TRUE(boxes_about({w}, 0.025).empty()) << "26 leaves across will do";
}

}  // namespace
}  // namespace dunefield::test
