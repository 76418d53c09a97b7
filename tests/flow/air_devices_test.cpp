// Cores and fans in a straight duct: the change of pressure is that of their curve.
#include <gtest/gtest.h>

#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

constexpr double length = 2, side = 0.5;

AirDevice core(const PressureCurve& curve) {
  AirDevice d;
  d.name = "core", d.centre = {1, 0.25, 0.25};
  d.width = 2, d.height = 2, d.depth = 0.2;
  d.curve = curve;
  return d;
}

PressureCurve curve(double linear, double quadratic) {
  PressureCurve c;
  c.linear = linear, c.quadratic = quadratic;
  return c;
}

class Duct : public testing::Test {
 protected:
  Solution flow(const AirDevice& device, double speed, int ranks = 2) {
    FlowCase c = laminar(1e-3, conditions(speed));
    c.air.density = 1.2, c.reference_speed = speed;
    c.initial_velocity = {speed, 0, 0};
    c.devices = {device};
    return solve(mesh_, c, 1500, 1e-8, ranks);
  }
  static std::vector<BoundaryCondition> conditions(double speed) {
    return {stream({speed, 0, 0}), outflow(), slip(), slip(), slip(), slip()};
  }
  /// Pressure upstream less downstream, Pa.
  double drop(const Solution& s) const {
    double ahead = 0, behind = 0;
    int n = 0, m = 0;
    for (int c = 0; c < mesh_.cells; ++c) {
      const double x = mesh_.cell_centre[static_cast<std::size_t>(c)].x;
      if (x < 0.4) ahead += 1.2 * s.fields.p[static_cast<std::size_t>(c)], ++n;
      if (x > 1.6) behind += 1.2 * s.fields.p[static_cast<std::size_t>(c)], ++m;
    }
    return ahead / n - behind / m;
  }
  const VolumeMesh mesh_ = structured_mesh(60, 15, 2, [](const Vec3& a) {
    return Vec3{length * a.x, side * a.y, side * a.z};
  });
};

TEST(PressureCurve, IsStraightBetweenItsPointsAndGoesOnBeyondThem) {
  PressureCurve c;
  c.points = {{0, 0}, {2, 20}, {4, 60}};
  EXPECT_DOUBLE_EQ(c.at(0), 0);
  EXPECT_DOUBLE_EQ(c.at(1), 10);
  EXPECT_DOUBLE_EQ(c.at(3), 40);
  EXPECT_DOUBLE_EQ(c.at(6), 100) << "with the last slope";
  EXPECT_DOUBLE_EQ(curve(5, 3).at(2), 22);
}

TEST(AirDevice, IsABoxAcrossItsAxis) {
  AirDevice d;
  d.centre = {1, 2, 3}, d.width = 2, d.height = 1, d.depth = 0.2;
  EXPECT_TRUE(d.contains({1.09, 2.9, 3.4}));
  EXPECT_FALSE(d.contains({1.11, 2, 3})) << "behind it";
  EXPECT_FALSE(d.contains({1, 3.1, 3})) << "beside it";
  EXPECT_FALSE(d.contains({1, 2, 3.6})) << "above it";
  d.axis = {0, 1, 0};
  EXPECT_TRUE(d.contains({1.9, 2.09, 3.4})) << "turned with its axis";
  EXPECT_FALSE(d.contains({1, 2.9, 3}));
}

TEST_F(Duct, ACoreTakesThePressureOfItsCurve) {
  for (const double speed : {2.0, 8.0}) {
    const Solution s = flow(core(curve(5, 3)), speed);
    const double expected = 5 * speed + 3 * speed * speed;
    EXPECT_NEAR(drop(s), expected, 0.01 * expected);
    ASSERT_EQ(s.balance.devices.size(), 1u);
    const DeviceFigures& d = s.balance.devices[0];
    EXPECT_NEAR(d.mass_flow, 1.2 * speed * side * side, 1e-6 * speed);
    EXPECT_NEAR(d.pressure_change, -expected, 0.01 * expected);
    EXPECT_NEAR(d.area, side * side, 1e-9);
    EXPECT_NEAR(d.force.x, expected * side * side, 0.01 * expected * side * side)
        << "the core holds what the air has lost";
    EXPECT_NEAR(d.spread, 0, 0.01 * speed);
    EXPECT_LT(s.mass_balance, 1e-10);
  }
}

TEST_F(Duct, AMeasuredTableIsFollowed) {
  PressureCurve table;
  table.points = {{0, 0}, {2, 20}, {4, 60}, {8, 220}};
  EXPECT_NEAR(drop(flow(core(table), 3)), 40, 0.4);
  EXPECT_NEAR(drop(flow(core(table), 8)), 220, 2.2);
}

TEST_F(Duct, ACoreTurnedByThirtyDegreesTurnsTheAirAndMeetsItsOwnVelocity) {
  AirDevice d = core(curve(0, 20));
  d.axis = {std::cos(0.5235988), std::sin(0.5235988), 0};
  const Solution s = flow(d, 5);
  // All the air goes through the face, which is larger than the duct by 1 / cos 30.
  const double through = 5 * std::cos(0.5235988), expected = 20 * through * through;
  EXPECT_NEAR(s.balance.devices[0].mean_velocity, through, 0.02 * through);
  EXPECT_NEAR(-s.balance.devices[0].pressure_change, expected, 0.04 * expected);
}

TEST_F(Duct, AFanAddsItsRise) {
  AirDevice fan = core({});
  fan.is_fan = true;
  fan.curve.points = {{1, 100}, {9, 20}};
  const Solution s = flow(fan, 5);
  EXPECT_NEAR(drop(s), -60, 0.6);
  EXPECT_NEAR(s.balance.devices[0].force.x, -60 * side * side, 0.01 * 60 * side * side);
}

TEST_F(Duct, RanksAgreeOnADeviceThatTheyShare) {
  const AirDevice d = core(curve(5, 3));
  EXPECT_NEAR(drop(flow(d, 4, 1)), drop(flow(d, 4, 4)), 1e-3);
}

TEST_F(Duct, ADeviceInNoAirIsRefused) {
  AirDevice d = core(curve(5, 3));
  d.centre.x = 9;
  EXPECT_THROW(flow(d, 4, 1), std::exception);
}

}  // namespace
}  // namespace dunefield::test
