#include <gtest/gtest.h>

#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield::wall_law {
namespace {

double u_plus(double y_plus, double grain = 0) { return velocity(reichardt, y_plus, grain).u_plus; }
double shear_factor(double scale, double y, double nu) { return scale / u_plus(scale * y / nu); }

TEST(WallLaw, IsLinearInTheSublayerAndLogarithmicBeyond) {
  for (const double y : {0.1, 0.5, 1.0}) EXPECT_NEAR(u_plus(y) / y, 1, 0.03);
  for (const double y : {100.0, 300.0, 1000.0, 3000.0})
    EXPECT_NEAR(u_plus(y), std::log(y) / kappa + 5.2, 0.15);
}

TEST(WallLaw, RisesSteadily) {
  for (double y = 0.1; y < 1e4; y *= 1.1) EXPECT_GT(u_plus(1.1 * y), u_plus(y));
}

TEST(WallLaw, SlopeShareIsTheDerivative) {
  for (const Profile& profile : {reichardt, sst})
    for (const double grain : {0.0, 50.0})
      for (const double y : {0.1, 1.0, 5.0, 11.0, 30.0, 200.0, 2000.0}) {
        const double h = 1e-5 * y, slope = (velocity(profile, y + h, grain).u_plus -
                                            velocity(profile, y - h, grain).u_plus) /
                                           (2 * h);
        const Velocity v = velocity(profile, y, grain);
        EXPECT_NEAR(v.slope_share, y * slope / v.u_plus, 1e-4) << y << " " << grain;
      }
  EXPECT_EQ(velocity(reichardt, 0).slope_share, 1);
}

TEST(WallLaw, TheModelsProfileEndsInTheSameLayers) {
  for (const double y : {0.1, 1.0, 1000.0, 5000.0})
    EXPECT_NEAR(velocity(sst, y).u_plus, u_plus(y), 0.01 * u_plus(y)) << y;
  for (double y = 0.1; y < 1e4; y *= 1.05)
    EXPECT_GT(velocity(sst, 1.05 * y).u_plus, velocity(sst, y).u_plus) << y;
}

TEST(WallLaw, GrainsMoveTheLogarithmicLayerToNikuradsesPlace) {
  for (const double grain : {300.0, 3000.0})
    for (const double y : {3 * grain, 30 * grain})
      EXPECT_NEAR(u_plus(y, grain), std::log(y / grain) / kappa + 8.5, 0.15);
  EXPECT_NEAR(u_plus(300, 0.1), u_plus(300), 0.1) << "small grains lie in the sublayer";
  constexpr double nu = 1.5e-5;
  for (const double height : {1e-5, 1e-3}) {
    const double u_tau = friction_velocity(reichardt, 30, 0.005, nu, height);
    EXPECT_NEAR(u_tau * u_plus(u_tau * 0.005 / nu, u_tau * height / nu) / 30, 1, 1e-4);
  }
}

TEST(WallLaw, FrictionVelocityFulfilsTheLaw) {
  constexpr double nu = 1.5e-5;
  for (const Profile& profile : {reichardt, sst})
    for (const double y : {1e-6, 1e-4, 1e-3, 0.02})
      for (const double speed : {0.01, 1.0, 30.0}) {
        const double u_tau = friction_velocity(profile, speed, y, nu);
        EXPECT_NEAR(u_tau * velocity(profile, u_tau * y / nu).u_plus / speed, 1, 0.01)
            << y << " " << speed;
      }
  EXPECT_EQ(friction_velocity(reichardt, 0, 0.01, nu), 0);
}

TEST(WallLaw, ShearIsViscousNearTheWallWhateverTheTurbulence) {
  constexpr double nu = 1.5e-5, y = 1e-6;
  for (const double k : {0.0, 0.1, 10.0})
    EXPECT_NEAR(shear_factor(velocity_scale(reichardt, k, 1, y, nu), y, nu) / (nu / y), 1, 0.05);
}

TEST(WallLaw, ShearFactorSurvivesSeparation) {
  // Where the shear vanishes the factor is that of the turbulence that is there; where k does, that
  // of the boundary layer.
  constexpr double nu = 1.5e-5, y = 0.02;
  EXPECT_GT(shear_factor(velocity_scale(reichardt, 2, 1e-6, y, nu), y, nu), 20 * nu / y);
  EXPECT_GT(shear_factor(velocity_scale(reichardt, 0, 20, y, nu), y, nu), 20 * nu / y);
}

}  // namespace
}  // namespace dunefield::wall_law
