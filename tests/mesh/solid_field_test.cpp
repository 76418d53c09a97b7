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

TEST(SolidField, SheetsAreAsThickAsACell) {
  Surface s;
  s.part_names = {"sheet"};
  s.points = {{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1}};
  s.triangles = {{0, 1, 2}, {0, 2, 3}}, s.part_of = {0, 0};
  const SolidField solid(s, {}, 0);
  constexpr double leaf = 0.1;
  for (const double side : {-1.0, 1.0}) {
    EXPECT_TRUE(solid.inside({0.3, 0.4 * leaf * side, 0.6}, 1.1 * leaf));
    EXPECT_FALSE(solid.inside({0.3, 0.7 * leaf * side, 0.6}, 1.1 * leaf));
  }
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
    ASSERT_FALSE(solid.inside({0.15, y, 1.64 - 0.4 * leaf}, 0)) << "the film ends above";
    EXPECT_TRUE(solid.inside({0.15, y, 1.64 - 0.4 * leaf}, 1.1 * leaf)) << y;
    EXPECT_FALSE(solid.inside({0.15, y, 1.64 - 0.7 * leaf}, 1.1 * leaf)) << y;
  }
}

TEST(SolidField, PiecesThatCrossInAPlateAreOnePlate) {
  Surface s = rounded_box("plate", Box{{0, 0, 0}, {1, 1, 0.03}}, 0, 1);
  append(s, rounded_box("lining", Box{{0.1, 0.1, 0.02}, {0.9, 0.9, 0.05}}, 0, 1));
  const SolidField solid(s, {}, 0);
  constexpr double least = 0.11;  // so that 0.03 are added on both sides
  for (const double side : {-1.0, 1.0}) {
    const double wall = side < 0 ? 0 : 0.05;
    EXPECT_TRUE(solid.inside({0.5, 0.4, wall + 0.025 * side}, least)) << side;
    EXPECT_FALSE(solid.inside({0.5, 0.4, wall + 0.035 * side}, least)) << side;
  }
}

TEST(SolidField, APlateIsAsThickInACorner) {
  Surface s = rounded_box("plate", Box{{0, 0, 0}, {1, 1, 0.04}}, 0, 1);
  append(s, rounded_box("body", Box{{0.3, -1, -1}, {0.7, 0.5, 1}}, 0, 1));
  const SolidField solid(s, {}, 0);
  constexpr double least = 0.1;  // so that 0.03 are added on both sides
  for (const double off : {0.005, 0.02}) {
    EXPECT_TRUE(solid.inside({0.3 - off, 0.3, -0.025}, least)) << off;
    EXPECT_FALSE(solid.inside({0.3 - off, 0.3, -0.035}, least)) << off;
  }
}

TEST(SolidField, ASlantedPlateIsAsThickInACorner) {
  Surface s = rounded_box("plate", Box{{-1, -1, 0}, {1, 1, 0.04}}, 0, 1);
  constexpr double slant = 0.4;
  const Vec3 normal = {std::sin(slant), 0, std::cos(slant)};
  for (Vec3& p : s.points) p = Vec3{normal.z, 0, -normal.x} * p.x + Vec3{0, p.y, 0} + normal * p.z;
  append(s, rounded_box("body", Box{{0.012, -1, -1}, {0.7, 1, 1}}, 0, 1));
  const SolidField solid(s, {}, 0);
  constexpr double least = 0.1;  // so that some 0.03 are added on both sides
  EXPECT_TRUE(solid.inside(normal * -0.01, least)) << "behind the plate is the body";
  EXPECT_FALSE(solid.inside(normal * -0.04, least));
}

TEST(SolidField, ARidgeIsNoPlate) {
  Surface s = rounded_box("body", Box{{-1, -1, -1}, {1, 1, 1}}, 0, 1);
  const double half = std::sqrt(0.5);
  for (Vec3& p : s.points) p = {half * (p.x + p.z), p.y, half * (p.z - p.x)};
  const SolidField solid(s, {}, 0);
  const double top = std::sqrt(2);
  constexpr double least = 0.1;
  EXPECT_TRUE(solid.inside({0, 0, top - 0.001}, least));
  EXPECT_FALSE(solid.inside({0.012, 0, top - 0.01}, least)) << "0.02 wide there";
}

TEST(SolidField, APlateIsAsThickInTheSlitBesideABody) {
  Surface s = rounded_box("plate", Box{{0, 0, 0}, {1, 1, 0.04}}, 0, 1);
  append(s, rounded_box("body", Box{{0, 0, -1}, {1, 1, -0.05}}, 0, 1));
  const SolidField solid(s, {}, 0);
  constexpr double least = 0.1;  // so that 0.03 are added on both sides
  EXPECT_TRUE(solid.inside({0.5, 0.5, -0.02}, least));
  EXPECT_TRUE(solid.inside({0.5, 0.5, -0.028}, least)) << "nearer to the body";
  EXPECT_FALSE(solid.inside({0.5, 0.5, -0.035}, least));
}

}  // namespace
}  // namespace dunefield
