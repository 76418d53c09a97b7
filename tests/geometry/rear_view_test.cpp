// How blunt, slanted or tapered a vehicle ends.
#include <gtest/gtest.h>

#include <demo/garage.hpp>
#include <dunefield/geometry/rear_view.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield {
namespace {

constexpr double degree = 0.017453292519943295;

/// A block of 1 x 0.4 x 0.3 m whose upper rear edge is cut off by a slant of 0.22 m.
Surface slanted(double angle) {
  const double drop = 0.22 * std::sin(angle), run = 0.22 * std::cos(angle);
  std::vector<std::vector<Vec3>> rings;
  for (const double y : {-0.2, 0.2})
    rings.push_back({{-0.5, y, 0.05},
                     {0.5, y, 0.05},
                     {0.5, y, 0.35 - drop},
                     {0.5 - run, y, 0.35},
                     {-0.5, y, 0.35}});
  return loft("block", rings);
}

TEST(RearView, OfABlockIsBlunt) {
  const RearView v = rear_view(rounded_box("block", Box{{-1, -0.4, 0}, {1, 0.4, 0.6}}, 0));
  EXPECT_NEAR(v.blunt, 1, 0.01);
  EXPECT_LT(v.slanted + v.tapered, 0.01);
}

TEST(RearView, TellsASlantItsShareAndItsAngle) {
  for (const double angle : {21 * degree, 25 * degree, 31 * degree}) {
    const RearView v = rear_view(slanted(angle));
    EXPECT_NEAR(v.slanted, 0.22 * std::sin(angle) / 0.3, 0.01);
    EXPECT_NEAR(v.slant, angle, 0.002);
    EXPECT_NEAR(v.blunt, 1 - v.slanted, 0.01);
  }
  EXPECT_LT(rear_view(slanted(35 * degree)).slanted, 0.01) << "the air has left it";
  EXPECT_NEAR(rear_view(slanted(15 * degree)).tapered, 0.22 * std::sin(15 * degree) / 0.3, 0.01);
}

TEST(RearView, DoesNotTakeABallForASlant) {
  EXPECT_LT(rear_view(sphere("ball", {0, 0, 1}, 0.5, 64)).slanted, 0.1);
}

TEST(RearView, SeesOnlyWhatLiesRearmost) {
  Surface s = slanted(25 * degree);
  append(s, rounded_box("board", Box{{0.6, -0.3, 0}, {0.61, 0.3, 0.5}}, 0));
  EXPECT_NEAR(rear_view(s).blunt, 1, 0.01) << "a board hides the block";
}

TEST(RearView, OfTheVanTapersOnlyWithItsTail) {
  EXPECT_GT(rear_view(garage::marram()).blunt, 0.5);
  EXPECT_LT(rear_view(garage::marram()).slanted, 0.12);
}

}  // namespace
}  // namespace dunefield
