// Leaves get smaller where the surface curves, at sharp edges, in gaps and at thin places; and how
// many cells that makes is foretold.
#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/shapes/wing.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/mesh/octree/sizing.hpp>
#include <tests/support/surfaces.hpp>

namespace dunefield {
namespace {

MeshOptions options() {
  MeshOptions o;
  o.surface_size = 0.1, o.largest_size = 0.8, o.smallest_size = 0.0125;
  return o;
}

/// Is a leaf of this edge too large there?
bool too_large(const Surface& s, const MeshOptions& o, const Vec3& place, double edge) {
  const SolidField solid(s, {}, 0);
  return Sizing(s, solid, o).too_large(place, edge);
}

TEST(Sizing, ASphereGetsTheLeavesAroundItsTurnThatAreAskedFor) {
  const Surface ball = sphere("ball", {0, 0, 1}, 0.2, 96);
  MeshOptions o = options();
  const Vec3 side{0.2, 0, 1};
  EXPECT_FALSE(too_large(ball, o, side, 0.1));
  o.cells_per_turn = 24;  // 2 pi 0.2 m / 24 = 52 mm
  EXPECT_TRUE(too_large(ball, o, side, 0.1));
  EXPECT_FALSE(too_large(ball, o, side, 0.05));
  o.cells_per_turn = 48;
  EXPECT_TRUE(too_large(ball, o, side, 0.05));
  EXPECT_FALSE(too_large(ball, o, side, 0.025));
  o.smallest_size = 0.05;
  EXPECT_FALSE(too_large(ball, o, side, 0.05)) << "no further than the smallest size";
}

TEST(Sizing, HowFacesAreCutIntoFacetsChangesNoSize) {
  // Off the lattice, so that no leaf is as far from a side as counts to the last digit.
  const Surface box = rounded_box("box", Box{{-0.513, -0.487, 0.531}, {0.493, 0.521, 1.517}}, 0.1);
  MeshOptions o = options();
  o.cells_per_turn = 24, o.edge_size = 0.025, o.gap_cells = 3, o.thin_cells = 1.5;
  const Box tunnel{{-2, -2, 0}, {2, 2, 2.4}};
  EXPECT_EQ(predict_cells(box, tunnel, o), predict_cells(test::quartered(box), tunnel, o));
}

TEST(Sizing, SharpEdgesAreRefinedAndFlatSidesAreNot) {
  const Surface box = rounded_box("box", Box{{-0.5, -0.5, 0.5}, {0.5, 0.5, 1.5}}, 0);
  MeshOptions o = options();
  o.edge_size = 0.025;
  EXPECT_TRUE(too_large(box, o, {0.5, 0.5, 1}, 0.05));
  EXPECT_FALSE(too_large(box, o, {0.5, 0.5, 1}, 0.025));
  EXPECT_FALSE(too_large(box, o, {0.5, 0, 1}, 0.1)) << "the middle of a side";
}

TEST(Sizing, WhatDoesNotFitIntoMemoryIsRefusedBeforehand) {
  const Surface ball = sphere("ball", {0, 0, 1}, 0.2, 24);
  for (const double largest : {0.001, 0.8}) {  // too many from the start; too many at the surface
    MeshOptions o = options();
    o.surface_size = 5e-5, o.largest_size = largest, o.smallest_size = 0;
    try {
      build_mesh(ball, Box{{-2, -2, 0}, {2, 2, 2.4}}, o);
      ADD_FAILURE() << largest;
    } catch (const InputError& e) {
      EXPECT_NE(std::string(e.what()).find("not enough memory"), std::string::npos) << e.what();
    }
  }
}

TEST(Sizing, AGapGetsItsCellsAcross) {
  Surface pair = rounded_box("left", Box{{-0.5, -0.5, 0.5}, {-0.05, 0.5, 1.5}}, 0);
  append(pair, rounded_box("right", Box{{0.05, -0.5, 0.5}, {0.5, 0.5, 1.5}}, 0));
  MeshOptions o = options();
  EXPECT_FALSE(too_large(pair, o, {0, 0, 1}, 0.1));
  o.gap_cells = 4;  // 100 mm / 4
  EXPECT_TRUE(too_large(pair, o, {0, 0, 1}, 0.05));
  EXPECT_FALSE(too_large(pair, o, {0, 0, 1}, 0.025));
  o.largest_size = 0.4;
  const MeshResult m = build_mesh(pair, Box{{-2, -2, 0}, {2, 2, 2.4}}, o);
  int across = 0;
  for (const Vec3& c : m.mesh.cell_centre)
    across +=
        std::abs(c.x) < 0.05 && std::abs(c.y - 0.012) < 0.0126 && std::abs(c.z - 1.012) < 0.0126;
  EXPECT_GE(across, 3);
}

TEST(Sizing, ASlotThatTheSmallestSizeWouldCloseIsOpened) {
  const auto slot = [](double width) {
    Surface pair = rounded_box("left", Box{{-0.5, -0.5, 0.5}, {-0.5 * width, 0.5, 1.5}}, 0);
    append(pair, rounded_box("right", Box{{0.5 * width, -0.5, 0.5}, {0.5, 0.5, 1.5}}, 0));
    return pair;
  };
  MeshOptions o = options();
  o.gap_cells = 3, o.smallest_size = 0.05;
  const Vec3 middle{0, 0, 1};
  EXPECT_FALSE(too_large(slot(0.04), o, middle, 0.05)) << "no further than the smallest size";
  o.slot_halvings = 1;
  EXPECT_TRUE(too_large(slot(0.04), o, middle, 0.05));
  EXPECT_FALSE(too_large(slot(0.04), o, middle, 0.025));
  EXPECT_FALSE(too_large(slot(0.1), o, middle, 0.05)) << "is open anyway";
  EXPECT_FALSE(too_large(slot(0.01), o, middle, 0.05)) << "stays closed anyway";
  EXPECT_TRUE(too_large(slot(0.01), o, middle, 0.1));
}

TEST(Sizing, AThinPlateIsMeshedAtLeastSoFinely) {
  const Surface plate = rounded_box("plate", Box{{-0.5, -0.5, 0.98}, {0.5, 0.5, 1.02}}, 0);
  MeshOptions o = options();
  o.thin_cells = 1.5;  // 40 mm / 1.5
  EXPECT_TRUE(too_large(plate, o, {0, 0, 1.02}, 0.05));
  EXPECT_FALSE(too_large(plate, o, {0, 0, 1.02}, 0.025));
}

/// Leading edge along y at (0, y, 1); its nose has a radius of 16 mm.
Surface wing() {
  WingShape shape;
  shape.section = four_digit_section("0012");
  shape.leading_edge = {0, 0, 1}, shape.span = 2, shape.root_chord = shape.tip_chord = 1;
  return make_wing(shape);
}

TEST(Sizing, LeadingEdgesOfWingsGetFinerLeavesThanAllElse) {
  const Vec3 nose{0, 0.3, 1}, trailing_edge{1, 0.3, 1};
  MeshOptions o = options();
  o.smallest_size = 0.05, o.cells_per_turn = 20;
  EXPECT_FALSE(too_large(wing(), o, nose, 0.05));
  o.leading_halvings = 2;
  EXPECT_TRUE(too_large(wing(), o, nose, 0.05));
  EXPECT_TRUE(too_large(wing(), o, nose - Vec3{0.06, 0, 0}, 0.05)) << "what lies ahead counts";
  EXPECT_FALSE(too_large(wing(), o, nose, 0.025));
  EXPECT_FALSE(too_large(wing(), o, trailing_edge, 0.05));
  Surface inside_out = wing();
  for (auto& t : inside_out.triangles) std::swap(t[1], t[2]);
  EXPECT_TRUE(too_large(inside_out, o, nose, 0.05));
  Surface hidden = wing();
  append(hidden, rounded_box("box", Box{{-0.5, -1.5, 0.5}, {1.5, 1.5, 1.5}}, 0));
  EXPECT_FALSE(too_large(hidden, o, nose, 0.05)) << "no air gets there";
}

TEST(Sizing, RodsBlocksAndWingsAlongTheStreamHaveNoLeadingEdge) {
  MeshOptions o = options();
  o.smallest_size = 0.05, o.cells_per_turn = 20, o.leading_halvings = 2;
  const Surface rod = cylinder("rod", {0.016, -1, 1}, {0.016, 1, 1}, 0.016);
  EXPECT_FALSE(too_large(rod, o, {0, 0.3, 1}, 0.05));
  Surface along = wing();
  rotate(along, {0, 0, 1}, {0, 0, 1}, std::numbers::pi / 2);  // its nose faces -y now
  EXPECT_FALSE(too_large(along, o, {0.3, 0, 1}, 0.05));
  const Box tunnel{{-2, -2, 0}, {3, 2, 2.4}};
  const Surface block = rounded_box("block", Box{{-1, -0.5, 0.2}, {1, 0.5, 1.2}}, 0.1);
  const double cells = predict_cells(block, tunnel, o);
  o.leading_halvings = 0;
  EXPECT_EQ(predict_cells(block, tunnel, o), cells) << "round edges of what is thick";
}

TEST(Sizing, ASheetWithoutThicknessIsMeshedAsFinelyAsAllowed) {
  Surface sheet;
  sheet.part_names = {"sheet"};
  sheet.points = {{-0.5, -0.5, 1}, {0.5, -0.5, 1}, {0.5, 0.5, 1.1}, {-0.5, 0.5, 1.1}};
  sheet.triangles = {{0, 1, 2}, {0, 2, 3}}, sheet.part_of = {0, 0};
  MeshOptions o = options();
  const Vec3 middle{0, 0, 1.05};
  EXPECT_FALSE(too_large(sheet, o, middle, 0.1));
  o.thin_cells = 1.5;
  EXPECT_TRUE(too_large(sheet, o, middle, 0.025));
  EXPECT_FALSE(too_large(sheet, o, middle, 0.0125));
}

TEST(Sizing, FacetsFoldedBackToBackAreNoEdge) {
  Surface s = rounded_box("box", Box{{-0.5, -0.5, 0.5}, {0.5, 0.5, 1.5}}, 0.1);
  const int n = static_cast<int>(s.points.size());
  for (const Vec3& p : {Vec3{0.1, 0.1, 1.0}, Vec3{0.3, 0.1, 1.0}, Vec3{0.2, 0.3, 1.0}})
    s.points.push_back(p);
  s.triangles.push_back({n, n + 1, n + 2}), s.triangles.push_back({n, n + 2, n + 1});
  s.part_of.insert(s.part_of.end(), {0, 0});
  MeshOptions o = options();
  o.edge_size = 0.025;
  EXPECT_FALSE(too_large(s, o, {0.2, 0.1, 1.0}, 0.1));
}

TEST(Sizing, TheCellCountIsForetold) {
  const Surface body = rounded_box("body", Box{{-0.5, -0.3, 0.3}, {0.5, 0.3, 0.8}}, 0.1);
  for (const int layers : {0, 3}) {
    MeshOptions o = options();
    o.surface_size = 0.05, o.smallest_size = 0.0125, o.cells_per_turn = 16, o.edge_size = 0.025;
    o.layers.count = layers, o.layers.total_leaves = 0.6;
    const Box tunnel{{-3, -2, 0}, {5, 2, 3}};
    const double real = build_mesh(body, tunnel, o).quality.cells;
    EXPECT_NEAR(predict_cells(body, tunnel, o) / real, 1, 0.15) << layers << " layers";
  }
}

TEST(Sizing, MoreThanTheMachineHoldsIsRefusedBeforehand) {
  const Surface body = rounded_box("body", Box{{-2, -1, 0.3}, {2, 1, 1.5}}, 0.1);
  MeshOptions o = options();
  o.surface_size = 5e-5, o.largest_size = 0.05;
  try {
    predict_cells(body, Box{{-8, -4, 0}, {12, 4, 5}}, o);
    FAIL() << "not refused";
  } catch (const InputError& e) {
    EXPECT_NE(std::string(e.what()).find("memory"), std::string::npos) << e.what();
  }
}

}  // namespace
}  // namespace dunefield
