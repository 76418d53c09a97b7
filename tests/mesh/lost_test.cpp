// What is too small for the mesh does not go without a word.
#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {
namespace {

std::string told(const Surface& s, bool half) {
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4, o.half = half;
  std::string text;
  for (const Finding& f : build_mesh(s, Box{{-2, half ? 0.0 : -1.5, 0}, {3, 1.5, 2.4}}, o).findings)
    if (f.text.find("not in the mesh") != std::string::npos) text += f.text;
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

}  // namespace
}  // namespace dunefield
