// Forces added up along the vehicle.
#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/record/build_up.hpp>

namespace dunefield::test {
namespace {

/// A block in a uniform pressure with a friction of 2 Pa along x.
struct Block {
  MeshResult m;
  std::vector<WallLoad> loads;
  Block() {
    MeshOptions o;
    o.surface_size = 0.1, o.largest_size = 0.4;
    m = build_mesh(rounded_box("block", Box{{-0.5, -0.3, 0.4}, {0.5, 0.3, 0.9}}, 0),
                   Box{{-2, -1.5, 0}, {3, 1.5, 2}}, o);
    for (int f = m.mesh.interior_faces(); f < m.mesh.faces(); ++f) {
      const Vec3 s = m.mesh.face_area[at(f)];
      loads.push_back({s * 7.0, Vec3{2, 0, 0} * norm(s), 7.0, 0});
    }
  }
};

TEST(BuildUp, EndsWithTheWholeAndTakesTheUndisturbedPressureOff) {
  const Block b;
  const BuildUp up = build_up(b.m.mesh, b.loads, 7.0, false, 50);
  ASSERT_EQ(up.station.size(), 51u);
  EXPECT_NEAR(up.station.front(), -0.5, 1e-6);
  EXPECT_NEAR(up.station.back(), 0.5, 1e-6);
  for (const Vec3& p : up.pressure) EXPECT_NEAR(norm(p), 0, 1e-12);
  EXPECT_NEAR(up.friction.back().x, 2 * wetted_area(b.m.mesh), 1e-9);
}

TEST(BuildUp, TheNoseTakesTheStagnationPressureAndTheTailGivesItBack) {
  const Block b;
  const BuildUp up = build_up(b.m.mesh, b.loads, 0, false, 50);
  EXPECT_NEAR(up.pressure[1].x, 7 * 0.6 * 0.5, 0.05 * 2.1)
      << "pressure on the front face pushes rearward";
  EXPECT_NEAR(up.pressure[25].x, up.pressure[1].x, 1e-3)
      << "the sides add nothing but for what is tilted at their edges";
  EXPECT_NEAR(up.pressure.back().x, 0, 1e-9);
  for (std::size_t i = 1; i < up.friction.size(); ++i)
    EXPECT_GE(up.friction[i].x, up.friction[i - 1].x);
}

TEST(BuildUp, AHalfModelCountsTwiceAndHasNoSideForce) {
  const Block b;
  const BuildUp one = build_up(b.m.mesh, b.loads, 0, false, 10),
                twice = build_up(b.m.mesh, b.loads, 0, true, 10);
  EXPECT_NEAR(twice.friction.back().x, 2 * one.friction.back().x, 1e-12);
  EXPECT_EQ(twice.pressure[3].y, 0);
}

}  // namespace
}  // namespace dunefield::test
