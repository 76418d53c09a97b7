// Units that people read.
#include <gtest/gtest.h>

#include <dunefield/base/display_units.hpp>
#include <dunefield/base/error.hpp>

namespace dunefield::test {
namespace {

TEST(DisplayUnits, AreSiUnlessAskedOtherwise) {
  const DisplayUnits si = display_units("", "test");
  EXPECT_EQ(si.speed_text(25), "90 km/h");
  EXPECT_EQ(si.power_text(13568.4), "13568 W");
  EXPECT_EQ(si.in(si.force, 541.93, 1), "541.9");
}

TEST(DisplayUnits, OfTheRoadInTheStates) {
  const DisplayUnits us = display_units("us", "test");
  EXPECT_EQ(us.speed_text(26.8224), "60 mph");
  EXPECT_EQ(us.power_text(745.69987158227), "1.0 hp");
  EXPECT_EQ(us.in(us.force, 4.4482216152605, 3), "1.000");
  EXPECT_EQ(us.in(us.area, 0.09290304, 3), "1.000");
  EXPECT_THROW(display_units("imperial", "test"), InputError);
}

}  // namespace
}  // namespace dunefield::test
