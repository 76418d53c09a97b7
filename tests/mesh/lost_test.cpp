// What is too small for the mesh does not go without a word.
#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/dual/lost.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {
namespace {

std::string told(const Surface& s, bool half) {
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4, o.half = half;
  std::string text;
  for (const Finding& f : build_mesh(s, Box{{-2, half ? 0.0 : -1.5, 0}, {3, 1.5, 2.4}}, o).findings)
    if (f.id == "mesh.lost-detail") text += f.text;
  return text;
}

TEST(LostPieces, ABitBetweenThePointsOfTheLatticeIsTold) {
  Surface s = rounded_box("body", Box{{-0.6, -0.4, 0.52}, {0.6, 0.4, 0.93}}, 0.1);
  EXPECT_EQ(told(s, false), "");
  EXPECT_EQ(told(s, true), "");
  const double radius = 0.004;
  append(s, sphere("bit", {0.22, 0.07, 1.477}, radius, 12));
  for (const bool half : {false, true}) {
    const std::string text = told(s, half);
    EXPECT_NE(text.find(" cm2 of 'bit' are not in the mesh"), std::string::npos) << text;
    EXPECT_NEAR(std::stod(text), 4e4 * std::numbers::pi * radius * radius, 0.3) << "area, cm2";
    EXPECT_NE(text.find("(0.2"), std::string::npos) << "its place: " << text;
  }
}

TEST(LostPieces, WhatIsHiddenInsideIsNotMissed) {
  Surface s = rounded_box("body", Box{{-0.6, -0.4, 0.52}, {0.6, 0.4, 0.93}}, 0.1);
  append(s, sphere("engine", {0.1, 0.02, 0.7}, 0.1, 24));
  append(s, sphere("bolt", {0.3, 0.03, 0.71}, 0.005, 12));
  EXPECT_EQ(told(s, false), "");
  EXPECT_EQ(told(s, true), "");
}

TEST(HiddenParts, AreNamedUpToAFewAndCountedBeyond) {
  Surface s = rounded_box("body", Box{{-0.6, -0.4, 0.52}, {0.6, 0.4, 0.93}}, 0.1);
  for (int i = 0; i < 8; ++i)
    append(s, sphere("bolt " + std::to_string(i), {-0.3 + 0.08 * i, 0.03, 0.71}, 0.005, 12));
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4;
  std::vector<std::string> told;
  for (const Finding& f : build_mesh(s, Box{{-2, -1.5, 0}, {3, 1.5, 2.4}}, o).findings)
    if (f.text.find("no face in the mesh") != std::string::npos) told.push_back(f.text);
  ASSERT_EQ(told.size(), 6u);
  EXPECT_EQ(told.front().find("part 'bolt 0'"), 0u) << told.front();
  EXPECT_EQ(told.back(), "3 more parts have no face in the mesh");
}

/// A plate of 1.2 by 0.8 m, 60 mm thick, with a hole `wide` in its middle.
Surface plate_with_a_hole(double wide) {
  const double h = 0.5 * wide, lo = 0.762, hi = 0.822;
  Surface s;
  append(s, rounded_box("plate", Box{{-0.6, -0.4, lo}, {-h, 0.4, hi}}, 0, 1));
  append(s, rounded_box("plate", Box{{h, -0.4, lo}, {0.6, 0.4, hi}}, 0, 1));
  append(s, rounded_box("plate", Box{{-h, -0.4, lo}, {h, -h, hi}}, 0, 1));
  append(s, rounded_box("plate", Box{{-h, h, lo}, {h, 0.4, hi}}, 0, 1));
  return s;
}

TEST(HolesInPlates, AreThoseThatTheSurfaceHasNot) {
  const Surface whole = rounded_box("plate", Box{{-0.6, -0.4, 0.762}, {0.6, 0.4, 0.822}}, 0, 1);
  const SolidField solid(whole, {}, 0);
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4;
  const auto holes = [&](const Surface& meshed, bool half) {
    o.half = half;
    const Box tunnel{{-2, half ? 0.0 : -1.5, 0}, {3, 1.5, 2.4}};
    return holes_in_plates(build_mesh(meshed, tunnel, o).mesh, whole, solid, o.surface_size);
  };
  const double wide = 0.2;
  for (const bool half : {false, true}) {
    EXPECT_TRUE(holes(whole, half).empty());
    const auto found = holes(plate_with_a_hole(wide), half);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_NEAR(found[0].area, (half ? 0.5 : 1) * wide * wide, 0.3 * wide * wide);
    EXPECT_LT(std::abs(found[0].place.x), wide / 2);
    // what ends sooner in the mesh has no hole there
    const Surface shorter = rounded_box("plate", Box{{-0.6, -0.4, 0.762}, {0.5, 0.4, 0.822}}, 0, 1);
    EXPECT_TRUE(holes(shorter, half).empty());
  }
}

/// Of 1.2 by 0.8 m, without thickness.
Surface sheet(double front, double back) {
  Surface s;
  s.part_names = {"sheet"};
  s.points = {{front, -0.4, 0.79}, {back, -0.4, 0.79}, {back, 0.4, 0.79}, {front, 0.4, 0.79}};
  s.triangles = {{0, 1, 2}, {0, 2, 3}};
  s.part_of = {0, 0};
  return s;
}

TEST(HolesInPlates, AreToldOfSheets) {
  const Surface whole = sheet(-0.6, 0.6);
  const SolidField solid(whole, {}, 0, {0});
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4, o.half = false;
  const auto holes = [&](const Surface& meshed) {
    const Box tunnel{{-2, -1.5, 0}, {3, 1.5, 2.4}};
    return holes_in_plates(build_mesh(meshed, tunnel, o).mesh, whole, solid, o.surface_size);
  };
  const double wide = 0.2;
  const auto found = holes(plate_with_a_hole(wide));
  ASSERT_EQ(found.size(), 1u);
  EXPECT_EQ(found[0].part, "sheet");
  EXPECT_NEAR(found[0].area, wide * wide, 0.3 * wide * wide);
  const auto ending_at = [](double x) {
    return rounded_box("plate", Box{{-0.6, -0.4, 0.762}, {x, 0.4, 0.822}}, 0, 1);
  };
  EXPECT_TRUE(holes(ending_at(0.57)).empty()) << "it only ends sooner, by less than a leaf";
  const auto bitten = holes(ending_at(0.3));
  ASSERT_EQ(bitten.size(), 1u) << "a bite out of the rim lets air through as a hole does";
  EXPECT_NEAR(bitten[0].area, (0.3 - o.surface_size) * (0.8 - 2 * o.surface_size), 0.03);
  EXPECT_GT(bitten[0].place.x, 0.28);
  o.sheet_parts = {"sheet"};
  EXPECT_TRUE(holes(whole).empty());
}

}  // namespace
}  // namespace dunefield
