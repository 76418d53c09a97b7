// Gaps with few cells across are found and told.
#include <gtest/gtest.h>

#include <dunefield/geometry/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield::test {
namespace {

/// Two plates over each other, `gap` apart, in cells of 50 mm.
MeshResult plates(double gap) {
  Surface s = rounded_box("lower", Box{{-0.6, -0.4, 0.5}, {0.6, 0.4, 0.7}}, 0);
  append(s, rounded_box("upper", Box{{-0.6, -0.4, 0.7 + gap}, {0.6, 0.4, 0.95 + gap}}, 0));
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4;
  return build_mesh(s, Box{{-2, -1.5, 0}, {3, 1.5, 2.4}}, o);
}

TEST(NarrowGaps, AreListedWithWidthPlaceAndParts) {
  const MeshResult m = plates(0.11);
  ASSERT_FALSE(m.gaps.empty());
  EXPECT_NEAR(m.gaps[0].width, 0.11, 0.01);
  EXPECT_NEAR(m.gaps[0].cells, 2.2, 0.2);
  EXPECT_NEAR(m.gaps[0].place.z, 0.755, 0.02);
  EXPECT_TRUE((m.gaps[0].part == "lower" && m.gaps[0].other == "upper") || (m.gaps[0].part == "upper" && m.gaps[0].other == "lower"));
  double area = 0;
  for (const NarrowGap& g : m.gaps) area += g.area;
  EXPECT_NEAR(area, 2 * 1.2 * 0.8, 0.15 * 2 * 1.2 * 0.8) << "both walls";
  EXPECT_NE(m.findings.begin()->text.find("a gap of 11"), std::string::npos) << m.findings.begin()->text;
}

TEST(NarrowGaps, AWideOneIsNone) { EXPECT_TRUE(plates(0.25).gaps.empty()); }

}  // namespace
}  // namespace dunefield::test
