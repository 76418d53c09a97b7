// Wall layers and united wall faces.
#include <gtest/gtest.h>

#include <demo/garage.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/health/mending.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

MeshResult ball_with(int layers) {
  MeshOptions o;
  o.surface_size = 0.04, o.largest_size = 0.64;
  o.layers.count = layers, o.layers.first_height = 0.0027;
  return build_mesh(sphere("ball", {0, 0, 0.7}, 0.3, 64), Box{{-2.5, -2, 0}, {6, 2, 4}}, o);
}

TEST(WallFaces, MostWallCellsOfABallHaveOne) {
  const MeshResult m = ball_with(0);
  std::vector<int> faces(static_cast<std::size_t>(m.mesh.cells), 0);
  int cells = 0, several = 0;
  for (const Boundary& p : m.mesh.boundaries)
    for (int f = p.first; p.kind == BoundaryKind::part && f < p.first + p.count; ++f) {
      const int n = ++faces[at(m.mesh.cell_below[at(f)])];
      cells += n == 1, several += n == 2;
    }
  EXPECT_GT(m.united, 0);
  EXPECT_LT(several, 0.2 * cells);
}

TEST(Layers, CoverABallWithTheHeightsAskedForAndStayClosed) {
  const MeshResult bare = ball_with(0), m = ball_with(5);
  EXPECT_TRUE(m.quality.sound());
  EXPECT_LT(m.quality.worst_closure, 1e-10);
  EXPECT_GT(m.layers.full_share(), 0.99);
  EXPECT_GT(m.layers.thick_share(), 0.95);
  EXPECT_NEAR(m.layers.parts.at(0).mean_first_height, 0.0027, 0.0003);
  // Each mesh may lose cells to merging; before that they differ by the layers alone.
  EXPECT_EQ(m.quality.cells + m.merged - m.layers.merged,
            bare.quality.cells + bare.merged + m.layers.cells);
  EXPECT_NEAR(air_volume(m.mesh), air_volume(bare.mesh), 1e-9) << "the wall stays where it was";
  EXPECT_NEAR(wetted_area(m.mesh), wetted_area(bare.mesh), 1e-9);
}

TEST(Layers, ThinOutTowardsARoadTheBodyStandsOn) {
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4;
  o.layers.count = 3, o.layers.first_height = 0.006;
  const MeshResult m =
      build_mesh(rounded_box("block", Box{{-0.5, -0.3, -0.1}, {0.5, 0.3, 0.6}}, 0.15),
                 Box{{-2, -2, 0}, {3, 2, 2}}, o);
  EXPECT_TRUE(m.quality.sound());
  EXPECT_GT(m.layers.full_share(), 0.7);
  double fewer = 0, near_road = 0;
  for (const auto& [end, share] : m.layers.ends) {
    fewer += share;
    if (end == LayersEnd::gap || end == LayersEnd::bad_cells) near_road += share;
  }
  EXPECT_NEAR(fewer + m.layers.full_share(), 1, 1e-9);
  EXPECT_GT(near_road, 0.9 * fewer) << "the road is near, and the wedge above it sharp";
  for (const Boundary& p : m.mesh.boundaries)
    for (int f = p.first; p.kind == BoundaryKind::road && f < p.first + p.count; ++f)
      EXPECT_NEAR(m.mesh.face_centre[at(f)].z, 0, 1e-12) << "the road's faces stay in the road";
}

TEST(Layers, StandOnBothSidesOfASheetWithoutThickness) {
  Surface sheet;
  sheet.part_names = {"sheet"};
  for (const double turn : {0.0, 0.4}) {  // along the lattice, and across it
    sheet.points = {{-0.4, -0.4, 0.7}, {0.4, -0.4, 0.7}, {0.4, 0.4, 0.7}, {-0.4, 0.4, 0.7}};
    sheet.triangles = {{0, 1, 2}, {0, 2, 3}}, sheet.part_of = {0, 0};
    rotate(sheet, {0, 0, 0.7}, {0, 1, 0}, turn);
    MeshOptions o;
    o.surface_size = 0.04, o.largest_size = 0.64;
    o.layers.count = 5, o.layers.growth = 1.4, o.layers.total_leaves = 0.7;
    const MeshResult m = build_mesh(sheet, Box{{-2, -2, 0}, {2, 2, 2}}, o);
    EXPECT_TRUE(m.quality.good());
    EXPECT_GT(m.layers.full_share(), 0.4) << "all but some cells along the rim, turned by " << turn;
    EXPECT_GT(m.layers.thick_share(), 0.6);
  }
}

TEST(Layers, GiveWayWhereWhatMovesElsewhereInvertsACell) {
  // At the rim of a gap of a twelfth of a leaf, cells reach from the edge, where layers stand, into
  // the gap, where none do.
  Surface pair = rounded_box("front", Box{{-3, -0.9, 0.3}, {0, 0.9, 1.8}}, 0);
  append(pair, rounded_box("back", Box{{0.004, -0.9, 0.3}, {3, 0.9, 2.2}}, 0));
  MeshOptions o = mesh_recipe("scout", bounds(pair), "");
  o.half = true;
  const MeshResult m = build_mesh(pair, Box{{-7, 0, 0}, {7, 3.5, 5}}, o);
  EXPECT_TRUE(m.quality.good());
  for (const Finding& f : m.findings)
    EXPECT_EQ(f.text.find("lattice"), std::string::npos) << f.text;
}

TEST(Layers, ManyThinOnesOfAVanGiveWayOnlyWhereTheMeshIsBad) {
  Surface van = garage::marram();
  weld(van);
  MeshOptions o = mesh_recipe("scout", bounds(van), "");
  o.surface_size = 0.06, o.half = true;
  o.layers.count = 12, o.layers.growth = 1.5, o.layers.total_leaves = 0;
  o.layers.first_height = 7e-5;
  const MeshResult m = build_mesh(van, Box{{-8, 0, 0}, {10, 4, 6}}, o);
  EXPECT_TRUE(m.quality.sound());
  EXPECT_GT(m.layers.full_share(), 0.6) << "thinning must not spread";
}

TEST(Layers, FlowOverALayeredBallSettles) {
  const MeshResult m = ball_with(5);
  const FlowCase c = road_case(m.mesh, 20);
  const Solution s = solve(m.mesh, c, 250);
  const double area = 3.14159 * 0.09, cd = s.cd_history.back() / (0.5 * c.air.density * 400 * area);
  EXPECT_GT(cd, 0.05);
  EXPECT_LT(cd, 0.35);
  EXPECT_LT(std::abs(s.cd_history.back() / s.cd_history[s.cd_history.size() - 20] - 1), 0.05);
}

}  // namespace
}  // namespace dunefield::test
