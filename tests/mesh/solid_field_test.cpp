#include <dunefield/mesh/octree/solid_field.hpp>

#include <algorithm>
#include <cmath>

#include <gtest/gtest.h>

#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield {
namespace {

/// A box with a hole in one of its sides, and with a sliver on its edge along z, whose normal runs
/// across the edge.
Surface torn_box_with_a_sliver() {
  Surface s = rounded_box("box", Box{{0, 0, 0}, {1, 1, 1}}, 0, 1);
  s.triangles.pop_back(), s.part_of.pop_back();
  const auto on_edge = [&](int p) {
    const Vec3& at = s.points[static_cast<std::size_t>(p)];
    return std::abs(at.x) + std::abs(at.y) < 1e-9;
  };
  for (auto& t : s.triangles) {
    if (!on_edge(t[0]) || !on_edge(t[1])) std::rotate(t.begin(), t.begin() + 1, t.end());
    if (!on_edge(t[0]) || !on_edge(t[1])) std::rotate(t.begin(), t.begin() + 1, t.end());
    if (!on_edge(t[0]) || !on_edge(t[1])) continue;
    const auto [a, b, c] = t;
    const int m = static_cast<int>(s.points.size());
    s.points.push_back(
        (s.points[static_cast<std::size_t>(a)] + s.points[static_cast<std::size_t>(b)]) / 2 -
        Vec3{1e-5, 1e-5, 0});
    t = {a, m, c};
    s.triangles.push_back({m, b, c}), s.part_of.push_back(0);
    s.triangles.push_back({a, b, m}), s.part_of.push_back(0);
    break;
  }
  return s;
}

TEST(SolidField, SliversOfATornBodyAreNotTakenForSheets) {
  const SolidField solid(torn_box_with_a_sliver(), {}, 0);
  ASSERT_TRUE(solid.inside({0.5, 0.5, 0.5}, 0));
  constexpr double leaf = 0.1;
  for (const double z : {0.3, 0.5, 0.7})
    for (const double off : {0.05, 0.2, 0.4})
      EXPECT_FALSE(solid.inside({-0.7 * off * leaf, -0.7 * off * leaf, z}, 1.1 * leaf))
          << z << ' ' << off;
}

TEST(SolidField, ASheetPartsTheAirAndIsNotSolid) {
  Surface s;
  s.part_names = {"sheet"};
  s.points = {{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1}};
  s.triangles = {{0, 1, 2}, {0, 2, 3}}, s.part_of = {0, 0};
  const SolidField solid(s, {}, 0);
  constexpr double leaf = 0.1;
  const Vec3 ahead{0.3, -0.4 * leaf, 0.6}, behind{0.3, 0.6 * leaf, 0.6};
  EXPECT_FALSE(solid.inside(ahead, leaf));
  EXPECT_TRUE(solid.thin_wall_between(ahead, behind));
  EXPECT_NEAR(solid.crossing(ahead, behind, leaf).normal.y, -1, 1e-12) << "towards where one is";
  EXPECT_NEAR(solid.crossing(behind, ahead, leaf).normal.y, 1, 1e-12);
  EXPECT_FALSE(solid.thin_wall_between(ahead, {0.3, -0.01 * leaf, 0.6}));
  EXPECT_FALSE(solid.thin_wall_between({1.1, -0.04, 0.6}, {1.1, 0.06, 0.6})) << "beside it";
}

TEST(SolidField, ARodIsAsThickAsACellAndASpeckIsNot) {
  constexpr double leaf = 0.1;
  const Vec3 axis{1, 0.3, 0.2};
  Surface s = cylinder("rod", {0, 0, 0}, axis, 0.01, 12);
  append(s, sphere("speck", {0.5, 2, 0}, 0.01, 12));
  const SolidField solid(s, {}, 0);
  const Vec3 aside = unit(cross(axis, {0, 0, 1}));
  for (const double along : {0.3, 0.5, 0.7}) {
    EXPECT_TRUE(solid.inside(axis * along + aside * (0.4 * leaf), leaf)) << along;
    EXPECT_FALSE(solid.inside(axis * along + aside * leaf, leaf)) << along;
  }
  EXPECT_FALSE(solid.inside({0.5, 2.03, 0}, leaf));
}

TEST(SolidField, APlateIsNoRodBesideItsRim) {
  constexpr double leaf = 0.1;
  const SolidField solid(rounded_box("plate", Box{{0, 0, 0}, {1, 1, 0.02}}, 0, 1), {}, 0);
  for (const Vec3& beside : {Vec3{-0.03, 0.4, 0.03}, {-0.02, 0.5, -0.02}, {0.5, 1.01, 0.04}})
    EXPECT_FALSE(solid.inside(beside, leaf)) << beside.x << ' ' << beside.y;
}

TEST(SolidField, SheetsThatHalfEncloseAPlaceAreSheets) {
  // A hoop of three sheets on a body: a film under its top counts as inside by winding numbers.
  Surface s;
  s.part_names = {"hoop"};
  s.points = {{0, -0.7, 1.6}, {0.3, -0.7, 1.68}, {0.3, 0.7, 1.68}, {0, 0.7, 1.6}};
  s.triangles = {{0, 1, 2}, {0, 2, 3}};
  for (const double y : {-0.69, 0.69}) {
    const int first = static_cast<int>(s.points.size());
    for (const Vec3& p : {Vec3{0.05, y, 1}, {0.25, y, 1}, {0.25, y, 1.66}, {0.05, y, 1.62}})
      s.points.push_back(p);
    s.triangles.push_back({first, first + 1, first + 2});
    s.triangles.push_back({first, first + 2, first + 3});
  }
  s.part_of.assign(s.triangles.size(), 0);
  append(s, rounded_box("body", Box{{-3, -0.9, 0.3}, {1.9, 0.9, 1.05}}, 0, 1));
  append(s, rounded_box("cabin", Box{{-1.3, -0.8, 1}, {-0.2, 0.8, 1.6}}, 0, 1));
  const SolidField solid(s, {}, 0);
  constexpr SolidField::Beside beside{0.002, 0.04};
  for (const double y : {-0.3, 0.1}) EXPECT_TRUE(solid.is_sheet({0.15, y, 1.64}, beside)) << y;
  EXPECT_FALSE(solid.is_sheet({0.15, 0.1, 1.05}, beside)) << "the body's skin is none";
  constexpr double leaf = 0.1;
  for (const double y : {-0.1, 0.1}) {
    const Vec3 below{0.15, y, 1.64 - 0.4 * leaf};
    ASSERT_FALSE(solid.inside(below, 0)) << "the film ends above";
    EXPECT_TRUE(solid.thin_wall_between(below, below + Vec3{0, 0, leaf})) << y;
  }
}

TEST(SolidField, PiecesThatCrossInAPlateAreOnePlate) {
  Surface s = rounded_box("plate", Box{{0, 0, 0}, {1, 1, 0.03}}, 0, 1);
  append(s, rounded_box("lining", Box{{0.1, 0.1, 0.02}, {0.9, 0.9, 0.05}}, 0, 1));
  const SolidField solid(s, {}, 0);
  const Vec3 below{0.5, 0.4, -0.02}, above{0.5, 0.4, 0.07};
  EXPECT_TRUE(solid.thin_wall_between(below, above));
  EXPECT_NEAR(solid.crossing(below, above, 0.1).point.z, 0, 1e-9);
  EXPECT_NEAR(solid.crossing(above, below, 0.1).point.z, 0.05, 1e-9);
}

TEST(SolidField, APlatePartsTheAirInACorner) {
  Surface s = rounded_box("plate", Box{{0, 0, 0}, {1, 1, 0.04}}, 0, 1);
  append(s, rounded_box("body", Box{{0.3, -1, -1}, {0.7, 0.5, 1}}, 0, 1));
  const SolidField solid(s, {}, 0);
  for (const double off : {0.005, 0.02})
    EXPECT_TRUE(solid.thin_wall_between({0.3 - off, 0.3, -0.025}, {0.3 - off, 0.3, 0.075})) << off;
}

TEST(SolidField, APlateInTheSlitBesideABodyLeavesTheSlitOpen) {
  Surface s = rounded_box("plate", Box{{0, 0, 0}, {1, 1, 0.04}}, 0, 1);
  append(s, rounded_box("body", Box{{0, 0, -1}, {1, 1, -0.05}}, 0, 1));
  const SolidField solid(s, {}, 0);
  const Vec3 in_slit{0.5, 0.5, -0.025};
  EXPECT_FALSE(solid.inside(in_slit, 0.1));
  EXPECT_TRUE(solid.thin_wall_between(in_slit, {0.5, 0.5, 0.075}));
  EXPECT_FALSE(solid.thin_wall_between(in_slit, {0.6, 0.5, -0.025}));
}

TEST(SolidField, ARidgeIsNoPlate) {
  Surface s = rounded_box("body", Box{{-1, -1, -1}, {1, 1, 1}}, 0, 1);
  const double half = std::sqrt(0.5);
  for (Vec3& p : s.points) p = {half * (p.x + p.z), p.y, half * (p.z - p.x)};
  const SolidField solid(s, {}, 0);
  const double top = std::sqrt(2);
  EXPECT_TRUE(solid.inside({0, 0, top - 0.001}, 0.1));
  EXPECT_FALSE(solid.thin_wall_between({-0.05, 0, top - 0.01}, {0.05, 0, top - 0.01}));
}

}  // namespace
}  // namespace dunefield
