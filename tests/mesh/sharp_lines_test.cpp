// Sharp edges that the air can reach, and the mesh on them.
#include <gtest/gtest.h>

#include <bench/mesh_fit.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/dual/sharp_lines.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {
namespace {

TEST(SharpLines, EdgesHiddenInAnotherPartAreLeftOut) {
  Surface pair = rounded_box("large", Box{{-0.5, -0.5, 0.5}, {0.5, 0.5, 1.5}}, 0);
  append(pair, rounded_box("small", Box{{-0.2, -0.2, 1.2}, {0.2, 0.2, 1.8}},
                           0));  // its lower half is inside
  const SolidField solid(pair, {}, 0);
  const SharpLines lines(pair, solid);
  EXPECT_TRUE(lines.nearest({0.2, 0, 1.8}, 0.01));
  EXPECT_TRUE(lines.nearest({0.5, 0.1, 0.5}, 0.01));
  EXPECT_FALSE(lines.nearest({0.2, 0, 1.2}, 0.05)) << "inside the large box";
  EXPECT_FALSE(lines.nearest({0.5, 0, 1}, 0.05)) << "the middle of a side";
}

/// A cuboid turned in space and a drum: straight and round edges of 90 degrees, a chamfered block
/// with edges of 45, and a wheel's rim with one of 56 inwards.
struct EdgedBody : testing::TestWithParam<int> {};

TEST_P(EdgedBody, ItsEdgesAreMeshEdges) {
  Surface s;
  if (GetParam() == 0) {
    s = rounded_box("block", Box{{-0.5, -0.4, -0.3}, {0.5, 0.4, 0.3}}, 0);
    rotate(s, {0, 0, 0}, unit(Vec3{0.3, 0.5, 0.8}), 0.7);
    translate(s, {0, 0, 1.2});
  } else if (GetParam() == 1) {
    s = cylinder("drum", {-0.3, 0, 1.2}, {0.4, 0.1, 1.3}, 0.45, 96);
  } else if (GetParam() == 3) {
    s = revolve(
        "rim",
        {{0.07, 0}, {0.07, 0.38}, {0.084, 0.68}, {0.01, 0.72}, {0, 0.85}, {0.5, 0.85}, {0.5, 0}},
        {-0.08, 0.03, 1.22}, {1, 0, 0}, 96);
  } else {
    s = revolve("cone frustum", {{0, 0}, {0, 0.3}, {0.2, 0.5}, {0.7, 0.5}, {0.9, 0.3}, {0.9, 0}},
                {-0.4, 0, 1.2}, {1, 0, 0}, 96);
  }
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4;
  const MeshResult m = build_mesh(s, Box{{-2, -2, 0}, {2, 2, 2.4}}, o);
  const MeshFit fit = measure_fit(m.mesh, s, o.surface_size, 0, false);
  ASSERT_GT(fit.edge_points, 100u);
  EXPECT_GT(fit.edge_share, 0.98)
      << "edges of 40 to 80 degrees are lost where faces on both sides of them are united";
  EXPECT_GT(fit.near_share, 0.99);
  EXPECT_LT(fit.angle_99, 15);
}

INSTANTIATE_TEST_SUITE_P(Shapes, EdgedBody, testing::Values(0, 1, 2, 3));

}  // namespace
}  // namespace dunefield
