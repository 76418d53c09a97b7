// From a file to a vehicle on its road.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/vehicle.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class Placing : public testing::Test {
 protected:
  std::filesystem::path file(const Surface& s) {
    write_stl_ascii(folder_ / "v.stl", s);
    return folder_ / "v.stl";
  }
  static Surface brick(double clearance) {
    return rounded_box("brick", Box{{-2, -0.8, clearance}, {2, 0.8, clearance + 1.4}}, 0);
  }
  /// On four wheels whose lowest point is at z.
  static Surface car(double z) {
    Surface s = rounded_box("body", Box{{-2, -0.8, z + 0.2}, {2, 0.8, z + 1.4}}, 0.05);
    for (const double x : {-1.3, 1.2})
      for (const double y : {-0.6, 0.6})
        append(s, cylinder("wheel", {x, y - 0.1, z + 0.3}, {x, y + 0.1, z + 0.3}, 0.3, 64));
    return s;
  }
  static double lowest(const Vehicle& v) { return bounds(v.surface).lo.z; }
  static bool warned(const Vehicle& v, const std::string& text) {
    for (const Finding& f : v.findings)
      if (f.level == Finding::Level::warning && f.text.find(text) != std::string::npos) return true;
    return false;
  }
  TemporaryFolder folder_;
};

TEST_F(Placing, ABodyWithoutWheelsKeepsItsClearance) {
  for (const double clearance : {0.0, 0.15, 3.0}) {
    const Vehicle v = read_vehicle(file(brick(clearance)));
    EXPECT_NEAR(lowest(v), clearance, 1e-9);
    EXPECT_FALSE(warned(v, "moved"));
  }
}

TEST_F(Placing, AnOriginElsewhereIsMovedWithAWarningThatSaysHowFar) {
  const Vehicle below = read_vehicle(file(brick(-0.7)));
  EXPECT_NEAR(lowest(below), 0, 1e-9);
  EXPECT_TRUE(warned(below, "moved by +0.700 m in height"));
  const Vehicle far_above = read_vehicle(file(brick(50)));
  EXPECT_NEAR(lowest(far_above), 0, 1e-9) << "no plausible clearance";
  EXPECT_TRUE(warned(far_above, "moved by -50.000 m"));
}

TEST_F(Placing, ARoadThatMissesTheVehicleIsRefusedOrWarnedOf) {
  EXPECT_THROW(read_vehicle(file(brick(0)), {.road = 1.5}), InputError) << "all of it is below";
  const Vehicle sunk = read_vehicle(file(brick(0)), {.road = 0.3});
  EXPECT_NEAR(lowest(sunk), -0.3, 1e-9);
  EXPECT_TRUE(warned(sunk, "reaches 0.300 m below its road"));
  EXPECT_NEAR(sunk.frontal_area, 1.6 * 1.1, 0.02) << "what is below the road does not count";
  EXPECT_TRUE(warned(read_vehicle(file(brick(0)), {.road = -30}), "hangs 30.000 m above"));
  EXPECT_FALSE(warned(read_vehicle(file(car(0)), {.road = 0.02}), "road")) << "tyres pressed in";
}

TEST_F(Placing, WheelsStandOnTheRoad) {
  const Vehicle v = read_vehicle(file(car(0.4)));
  ASSERT_EQ(v.wheels.size(), 4u);
  EXPECT_NEAR(lowest(v), 0, 1e-9);
  EXPECT_TRUE(warned(v, "moved by -0.400 m in height"));
  EXPECT_NEAR(v.wheels[0].centre.z, 0.3, 1e-3);
  EXPECT_NEAR(0.5 * (v.wheels.front().centre.x + v.wheels.back().centre.x), 0, 1e-3)
      << "mid-wheelbase";
  EXPECT_FALSE(warned(read_vehicle(file(car(-0.01))), "moved"))
      << "tyres pressed into the road by their own flat";
  for (const double z : {0.02, -0.03}) {
    const Vehicle near = read_vehicle(file(car(z)));
    EXPECT_NEAR(lowest(near), 0, 1e-9) << "a road close to z = 0 is no road of tyres";
    EXPECT_TRUE(warned(near, z > 0 ? "moved by -0.020" : "moved by +0.030"));
  }
}

TEST_F(Placing, AGivenRoadHeightSetsIt) {
  EXPECT_NEAR(lowest(read_vehicle(file(brick(0.5)), {.road = 0.3})), 0.2, 1e-9);
  const Vehicle v = read_vehicle(file(brick(0.5)), {.scale = 0.5, .road = 0.3});
  EXPECT_NEAR(lowest(v), 0.1, 1e-9) << "at full size";
  EXPECT_FALSE(warned(v, "moved"));
}

TEST_F(Placing, UnitNoseAndMiddleAreThoseAskedFor) {
  Surface s = brick(0.1);
  translate(s, {0, 0.3, 0});
  scale(s, 1000);
  const Vehicle v = read_vehicle(file(s), {.unit = millimetre, .nose = "+x", .centred = true});
  EXPECT_NEAR(bounds(v.surface).size().x, 4, 1e-9);
  EXPECT_NEAR(bounds(v.surface).centre().y, 0, 1e-9);
  EXPECT_TRUE(warned(v, "sideways"));
  EXPECT_NEAR(v.frontal_area, 1.6 * 1.4, 0.01);
  EXPECT_THROW(read_vehicle(folder_ / "none.stl"), InputError);
}

TEST_F(Placing, AWholeVehicleStandsOnTheCentrePlaneWhateverSticksOutOnOneSide) {
  Surface mirror = car(0);
  append(mirror, rounded_box("mirror", Box{{-1, 0.8, 1}, {-0.9, 1.1, 1.2}}, 0.02));
  EXPECT_FALSE(warned(read_vehicle(file(mirror)), "sideways"));
  translate(mirror, {0, -0.7, 0});
  const Vehicle v = read_vehicle(file(mirror));
  EXPECT_TRUE(warned(v, "moved by +0.700 m sideways so that the middle of its track"));
  EXPECT_NEAR(bounds(v.surface).lo.y, -0.8, 1e-3);
  Surface body = brick(0.1);
  translate(body, {0, 2, 0});
  EXPECT_NEAR(bounds(read_vehicle(file(body)).surface).centre().y, 0, 1e-9) << "without wheels";
}

}  // namespace
}  // namespace dunefield::test
