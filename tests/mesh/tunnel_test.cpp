#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/tunnel.hpp>

namespace dunefield {
namespace {

const Box car{{-2, -0.9, 0}, {2.5, 0.9, 1.4}};

TEST(Tunnel, MeasuresInVehicleLengthsAndKeepsTheBlockage) {
  const Box t = tunnel_box(car, 2.2, {});
  EXPECT_DOUBLE_EQ(t.lo.x, -2 - 3 * 4.5);
  EXPECT_DOUBLE_EQ(t.hi.x, 2.5 + 7 * 4.5);
  EXPECT_EQ(t.lo.z, 0);
  EXPECT_NEAR(2.2 / (t.size().y * t.size().z), 0.012, 1e-9);
}

TEST(Tunnel, OfAWingOrAPlateAcrossTheStreamIsMeasuredByTheirLongestSide) {
  const Box wing{{-0.25, -1.5, 4}, {0.25, 1.5, 4.1}}, plate{{-0.01, -0.5, 4}, {0.01, 0.5, 5.5}};
  EXPECT_DOUBLE_EQ(tunnel_box(wing, 0.2, {}).lo.x, -0.25 - 3 * 3);
  EXPECT_DOUBLE_EQ(tunnel_box(plate, 1.5, {}).hi.x, 0.01 + 7 * 1.5);
}

TEST(Tunnel, OfAHalfModelBeginsAtTheCentrePlane) {
  TunnelOptions o;
  o.half = true;
  const Box half = tunnel_box(car, 2.2, o), whole = tunnel_box(car, 2.2, {});
  EXPECT_EQ(half.lo.y, 0);
  EXPECT_DOUBLE_EQ(half.hi.y, whole.hi.y);
}

TEST(Tunnel, AVehicleThatReachesOutIsRefused) {
  TunnelOptions o;
  o.width = 0.2;
  EXPECT_THROW(check_vehicle_in_tunnel(car, tunnel_box(car, 2.2, o), o), InputError);
  EXPECT_NO_THROW(check_vehicle_in_tunnel(car, tunnel_box(car, 2.2, {}), {}));
  Box sunk = car;
  sunk.lo.z = -0.5;
  EXPECT_THROW(check_vehicle_in_tunnel(sunk, tunnel_box(sunk, 2.2, {}), {}), InputError);
}

}  // namespace
}  // namespace dunefield
