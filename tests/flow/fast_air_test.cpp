// Fast air: a channel against the theory of one dimension, stagnation, heat, and the limit of slow
// air.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

/// Air whose speed of sound is that of a stream of speed 1 at this Mach number.
FastAir air_at(double mach) {
  FastAir gas;
  gas.temperature = 1;
  gas.gas_constant = 1 / (gas.heat_ratio * mach * mach);
  return gas;
}

/// Area over that where the flow is as fast as sound (Liepmann and Roshko 1957).
double area_ratio(double mach) { return std::pow((1 + 0.2 * mach * mach) / 1.2, 3) / mach; }
double mach_of(double ratio) {
  double low = 1e-3, high = 1;
  for (int i = 0; i < 60; ++i)
    (area_ratio(0.5 * (low + high)) > ratio ? low : high) = 0.5 * (low + high);
  return low;
}
/// Pressure over that of the stream less one, over twice its dynamic pressure: p / rho0 / U^2.
double isentropic(double mach, double stream) {
  const double total = std::pow((1 + 0.2 * stream * stream) / (1 + 0.2 * mach * mach), 3.5);
  return (total - 1) / (1.4 * stream * stream);
}

constexpr double waist = 0.8;  // of the section
double height(double x) {
  const double s = std::abs(x - 5) < 3 ? 0.5 * (1 + std::cos((x - 5) / 3 * 3.14159265358979)) : 0;
  return 0.5 * (1 - (1 - waist) * s);
}

class Channel : public testing::Test {
 protected:
  const VolumeMesh mesh_ = structured_mesh(100, 8, 1, [](const Vec3& a) {
    return Vec3{10 * a.x, height(10 * a.x) * a.y, 0.1 * a.z};
  });
  FlowCase flow_case(double mach) const {
    FlowCase c = laminar(1e-7, {stream({1, 0, 0}), outflow(), slip(), slip(), slip(), slip()});
    c.initial_velocity = {1, 0, 0}, c.fast = air_at(mach);
    return c;
  }
};

TEST_F(Channel, FollowsTheTheoryOfOneDimension) {
  constexpr double mach = 0.4;
  const Solution s = solve(mesh_, flow_case(mach), 1500, 1e-9);
  const double at_waist = mach_of(area_ratio(mach) * waist);
  ASSERT_GT(at_waist, 0.5);
  double p = 0, fastest = 0, least = 1e9, most = 0;
  int n = 0;
  for (int c = 0; c < mesh_.cells; ++c) {
    const auto i = static_cast<std::size_t>(c);
    if (std::abs(mesh_.cell_centre[i].x - 5) < 0.06) p += s.fields.p[i], ++n;
    fastest = std::max(fastest, norm(s.fields.u[i]));
    least = std::min(least, s.fields.enthalpy[i]), most = std::max(most, s.fields.enthalpy[i]);
  }
  // The pressure at the outflow is zero, that of the stream; the section there is the same.
  const double expected = isentropic(at_waist, mach);
  EXPECT_NEAR(p / n / expected, 1, 0.01);
  EXPECT_NEAR(most / least, 1, 1e-8) << "no heat goes in or out";
  EXPECT_LT(std::abs(s.mass_balance), 1e-8);
}

TEST_F(Channel, SlowAirIsThatOfConstantDensity) {
  FlowCase slow = flow_case(0.02);
  const Solution fast = solve(mesh_, slow, 800, 1e-9);
  slow.fast.reset();
  const Solution constant = solve(mesh_, slow, 800, 1e-9);
  double off = 0;
  for (std::size_t i = 0; i < fast.fields.p.size(); ++i)
    off = std::max(off, std::abs(fast.fields.p[i] - constant.fields.p[i]));
  EXPECT_LT(off, 2e-3);
  EXPECT_TRUE(constant.fields.temperature.empty());
}

TEST_F(Channel, AWarmWallHeatsTheAir) {
  FlowCase c = flow_case(0.1);
  c.air.kinematic_viscosity = 1e-3;
  c.conditions[2] = wall(), c.conditions[2].temperature = 1.2;
  const Solution s = solve(mesh_, c, 1500, 1e-8);
  double warmest = 0, coldest = 9;
  for (const double t : s.fields.temperature)
    warmest = std::max(warmest, t), coldest = std::min(coldest, t);
  EXPECT_GT(warmest, 1.05);
  EXPECT_LE(warmest, 1.2001);
  EXPECT_GT(coldest, 0.99);
}

TEST_F(Channel, AWallGivesTheAirTheHeatThatItIsTold) {
  FlowCase c = flow_case(0.1);
  c.air.kinematic_viscosity = 1e-3;
  constexpr double wall_area = 1, volume_flow = 0.05, rise = 12.5;  // of about 250
  c.conditions[2] = wall();
  c.conditions[2].heat_flux = rise * volume_flow * c.air.density / wall_area;
  const Solution s = solve(mesh_, c, 2500, 1e-9);
  double carried = 0, air = 0;
  for (std::size_t i = 0; i < s.fields.enthalpy.size(); ++i) {
    if (mesh_.cell_centre[i].x < 9.9) continue;
    const double flow = s.fields.density[i] * s.fields.u[i].x * mesh_.cell_volume[i];
    carried += flow * s.fields.enthalpy[i], air += flow;
  }
  const double stream = c.fast->cp() * c.fast->temperature + 0.5;
  EXPECT_NEAR(carried / air - stream, rise, 0.02 * rise);
}

TEST_F(Channel, SourcesOfTurbulenceHeatNoAir) {
  FlowCase c = flow_case(0.3);
  const Solution plain = solve(mesh_, c, 20, 0);
  c.options.turbulence_source = [](const Vec3&) { return std::pair(10.0, 10.0); };
  EXPECT_EQ(solve(mesh_, c, 20, 0).fields.enthalpy, plain.fields.enthalpy);
}

/// Hot air near a wall is more viscous: the sublayer, and omega in it, go by the local viscosity.
TEST_F(Channel, TheSublayerGoesByTheViscosityOfTheAirInIt) {
  FlowCase c = flow_case(0.3);
  c.air.kinematic_viscosity = 1e-4;
  c.conditions[2] = wall(), c.options.turbulence = TurbulenceModel::sst;
  const auto omega_at_wall = [&](double warmer) {
    FlowCase own = c;
    own.conditions[2].temperature = warmer * c.fast->temperature;
    const Solution s = solve(mesh_, own, 300, 0);
    double sum = 0, expected = 0;
    for (std::size_t i = 0; i < s.fields.omega.size(); ++i) {
      if (mesh_.cell_centre[i].x < 8 || mesh_.cell_centre[i].y > 0.06) continue;
      sum += s.fields.omega[i];
      expected += 1 / s.fields.density[i] * std::pow(s.fields.temperature[i], 0.7);
    }
    return std::pair(sum, expected);
  };
  const auto [cold, nu_cold] = omega_at_wall(1);
  const auto [hot, nu_hot] = omega_at_wall(2);
  EXPECT_GT(nu_hot / nu_cold, 2);
  EXPECT_GT(hot / cold, 1.4) << "omega in the sublayer is 6 nu / (beta y^2); with the stream's "
                                "viscosity it is 1.2 times that of cold air";
}

TEST_F(Channel, APocketFasterThanSoundIsNoTrouble) {
  // An arc in the floor, 8 % of its chord high, at Mach 0.675.
  const VolumeMesh mesh = structured_mesh(60, 20, 1, [](const Vec3& a) {
    constexpr double high = 0.08, radius = (0.25 + high * high) / (2 * high);
    const double x = 3 * a.x, off = x - 1.5,
                 y = std::abs(off) < 0.5 ? std::sqrt(radius * radius - off * off) - radius + high
                                         : 0;
    return Vec3{x, y + (1 - y) * a.y, 0.1 * a.z};
  });
  const FlowCase c = flow_case(0.675);
  const Solution s = solve(mesh, c, 1200, 1e-6);
  double fastest = 0, least = 1e9, most = 0;
  for (std::size_t i = 0; i < s.fields.u.size(); ++i) {
    fastest =
        std::max(fastest, norm(s.fields.u[i]) / c.fast->speed_of_sound(s.fields.temperature[i]));
    least = std::min(least, s.fields.enthalpy[i]), most = std::max(most, s.fields.enthalpy[i]);
  }
  EXPECT_GT(fastest, 0.95);
  EXPECT_LT(fastest, 1.15);
  EXPECT_LT(s.residual, 0.02) << "a small pocket may stay a little alive";
  EXPECT_NEAR(most / least, 1, 1e-6);
}

TEST_F(Channel, OtherModelsAreRefused) {
  FlowCase c = flow_case(0.3);
  c.options.turbulence = TurbulenceModel::spalart_allmaras;
  EXPECT_THROW(solve(mesh_, c, 1), InputError);
}

}  // namespace
}  // namespace dunefield::test
