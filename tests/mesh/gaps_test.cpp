// Gaps with few cells across are found and told.
#include <gtest/gtest.h>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield::test {
namespace {

/// Two plates over each other, `gap` apart, in cells of 50 mm.
MeshResult plates(double gap) {
  Surface s = rounded_box("lower", Box{{-0.6, -0.4, 0.5}, {0.6, 0.4, 0.7}}, 0);
  append(s, rounded_box("upper", Box{{-0.6, -0.4, 0.7 + gap}, {0.6, 0.4, 0.95 + gap}}, 0));
  translate(s, {0, 0, 0.012});  // off the lattice
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4;
  return build_mesh(s, Box{{-2, -1.5, 0}, {3, 1.5, 2.4}}, o);
}

TEST(NarrowGaps, AreListedWithWidthPlaceAndParts) {
  const MeshResult m = plates(0.11);
  ASSERT_FALSE(m.gaps.empty());
  EXPECT_NEAR(m.gaps[0].width, 0.11, 0.01);
  EXPECT_NEAR(m.gaps[0].cells, 2.2, 0.2);
  EXPECT_NEAR(m.gaps[0].place.z, 0.767, 0.02);
  EXPECT_TRUE((m.gaps[0].part == "lower" && m.gaps[0].other == "upper") ||
              (m.gaps[0].part == "upper" && m.gaps[0].other == "lower"));
  double area = 0;
  for (const NarrowGap& g : m.gaps) area += g.area;
  EXPECT_NEAR(area, 2 * 1.2 * 0.8, 0.15 * 2 * 1.2 * 0.8) << "both walls";
  EXPECT_NE(m.findings.begin()->text.find("a gap of 11"), std::string::npos)
      << m.findings.begin()->text;
}

TEST(NarrowGaps, AWideOneIsNone) { EXPECT_TRUE(plates(0.25).gaps.empty()); }

TEST(ClosedGaps, AreToldWithPlaceAndWidth) {
  const MeshResult m = plates(0.012);  // a quarter of a cell
  ASSERT_FALSE(m.gaps.empty());
  double area = 0;
  for (const NarrowGap& g : m.gaps) {
    if (!g.closed) continue;
    area += g.area;
    EXPECT_NEAR(g.width, 0.012, 1e-4);
    EXPECT_NEAR(g.place.z, 0.718, 1e-3);
  }
  EXPECT_GT(area, 0.5 * 2 * 1.2 * 0.8);
  bool told = false;
  for (const Finding& f : m.findings)
    told = told || (f.id == "mesh.closed-gap" && f.text.find("between") != std::string::npos);
  EXPECT_TRUE(told);
}

TEST(ClosedGaps, AnOpenGapAndASolidBodyAreNone) {
  for (const NarrowGap& g : plates(0.11).gaps) EXPECT_FALSE(g.closed);
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4;
  Surface crossing = rounded_box("one", Box{{-0.6, -0.4, 0.5}, {0.3, 0.4, 0.9}}, 0.05);
  append(crossing, rounded_box("other", Box{{-0.2, -0.3, 0.6}, {0.6, 0.3, 1.2}}, 0.05));
  for (const NarrowGap& g : build_mesh(crossing, Box{{-2, -1.5, 0}, {3, 1.5, 2.4}}, o).gaps)
    EXPECT_FALSE(g.closed) << g.place.x << " " << g.place.y << " " << g.place.z;
}

TEST(ThinParts, AreSaidToBeThickened) {
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4;
  const MeshResult m = build_mesh(rounded_box("flap", Box{{0.019, -0.4, 0.5}, {0.021, 0.4, 1}}, 0),
                                  Box{{-2, -1.5, 0}, {3, 1.5, 2.4}}, o);
  bool told = false;
  for (const Finding& f : m.findings)
    told = told || (f.id == "mesh.thin-place" && f.text.find("'flap'") != std::string::npos);
  EXPECT_TRUE(told);
}

}  // namespace
}  // namespace dunefield::test
