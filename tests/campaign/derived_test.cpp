// Figures that follow from others, and the energy of a round.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/claims.hpp>
#include <dunefield/campaign/derived.hpp>
#include <dunefield/campaign/mesh_independence.hpp>
#include <dunefield/campaign/wind.hpp>

namespace dunefield::test {
namespace {

Figures figures(const std::string& variant, double speed, double cd) {
  Figures f;
  f.run.variant = variant, f.run.speed = speed, f.run.recipe = "scout", f.run.blunt = 1;
  f.status = RunStatus::fluctuating;
  f.reference = {speed, 1.2, 2, 3};
  f.cd.mean = cd, f.cd.half_interval = 0.01 * cd;
  f.clf.mean = -0.3, f.clf.half_interval = 0.01, f.clr.mean = -0.1, f.cl.mean = -0.4;
  f.drag = cd * f.reference.dynamic_pressure() * 2;
  f.parts = {{"body", 0.2, -0.1}, {"rear wing", 0.1, -0.3}};
  return f;
}

TEST(Derived, BuiltInFigures) {
  const Figures f = figures("a", 20, 0.3);
  const auto all = built_in_figures(f);
  ASSERT_EQ(all.size(), 4u);
  EXPECT_NEAR(all[0].value, 0.6, 1e-12);
  EXPECT_NEAR(all[0].half_interval, 0.006, 1e-12) << "one per cent of the drag area, too";
  EXPECT_NEAR(all[1].value, 0.3 * 240 * 2 * 20, 1e-9);
  EXPECT_NEAR(all[3].value, 75, 1e-9) << "of the lift sits in front";
}

TEST(Derived, FormulasOfTheUserWithTheirIntervals) {
  const Figures f = figures("a", 20, 0.3);
  const DerivedFigure power = derived(f, {"power", "drag * speed / 1000", "kW"}, "c.toml");
  EXPECT_NEAR(power.value, 2.88, 1e-9);
  EXPECT_NEAR(power.half_interval, 0.0288, 1e-9);
  EXPECT_EQ(power.unit, "kW");
  EXPECT_NEAR(derived(f, {"x", "-CLF / CL", ""}, "c.toml").value, -0.75, 1e-12);
  EXPECT_NEAR(derived(f, {"wing", "CD_of(\"rear wing\") / CD", ""}, "c.toml").value, 1.0 / 3, 1e-6);
}

TEST(Derived, WhatIsNoFormulaIsRefusedWithItsName) {
  const auto refusal = [](const std::string& formula) -> std::string {
    try {
      check_formula({"mine", formula, ""}, "c.toml:7");
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  };
  for (const char* bad : {"drag *", "weight * 2", "", "CD_of(body)", "1 +* 2"}) {
    EXPECT_NE(refusal(bad).find("mine"), std::string::npos) << bad;
    EXPECT_EQ(refusal(bad).rfind("c.toml:7", 0), 0u) << refusal(bad);
  }
  EXPECT_EQ(refusal("CD_of(\"any\") + q"), "");
  EXPECT_THROW(derived(figures("a", 20, 0.3), {"m", "CD_of(\"door\")", ""}, "c"), InputError);
  EXPECT_THROW(derived(figures("a", 20, 0.3), {"m", "1 / (CD - CD)", ""}, "c"), InputError);
}

TEST(Derived, ARoundAddsItsLegs) {
  Round round{"round", {{20, 10000}, {40, 5000}}, 0, 0, 0.8};
  const RoundEnergy e = energy_of(round, {figures("a", 20, 0.3)});
  const double air = 0.3 * 0.5 * 1.2 * 2 * (400 * 10000 + 1600 * 5000) / 0.8;
  EXPECT_NEAR(e.energy, air, 1e-6);
  EXPECT_NEAR(e.half_interval, 0.01 * air, 1e-6);
  EXPECT_EQ(e.assumed_speeds, std::vector<double>{40}) << "was not run";
  round.mass = 1000, round.rolling_resistance = 0.01;
  EXPECT_NEAR(energy_of(round, {figures("a", 20, 0.3)}).energy - air, 0.01 * 9806.65 * 15000 / 0.8,
              1e-6);
  EXPECT_THROW(energy_of(round, {}), InputError);
}

TEST(Derived, VariantsOnARoundAreComparedWithTheDifferencesUncertainty) {
  const Round round{"round", {{20, 10000}}, 0, 0, 1};
  const std::vector<Figures> runs = {figures("base", 20, 0.3), figures("new", 20, 0.27)};
  const auto rows = over_round(round, compare(runs, "base"), "base");
  ASSERT_EQ(rows.size(), 2u);
  EXPECT_FALSE(rows[0].more.has_value());
  const double unit = 0.5 * 1.2 * 400 * 2 * 10000;
  EXPECT_NEAR(rows[1].more->value, -0.03 * unit, 1e-6);
  EXPECT_NEAR(rows[1].more->uncertainty, compare(runs, "base")[0].rows[1].cd->uncertainty * unit,
              1e-6);
}

TEST(Derived, AnotherSpeedIsBetweenThoseThatWereRun) {
  const std::vector<Figures> runs = {figures("a", 20, 0.32), figures("a", 40, 0.30)};
  const AtSpeed between = at_speed(runs, std::sqrt(800.0), 1.5e-5);
  EXPECT_NEAR(between.cd, 0.31, 1e-12) << "in the logarithm of the Reynolds number";
  EXPECT_NEAR(between.drag, 0.31 * 0.6 * 800 * 2, 1e-9);
  EXPECT_TRUE(between.within());
  const AtSpeed beyond = at_speed(runs, 60, 1.5e-5);
  EXPECT_EQ(beyond.cd, 0.30);
  EXPECT_FALSE(beyond.within());
  EXPECT_NEAR(beyond.reynolds, 60 * 3 / 1.5e-5, 1e-6);
  EXPECT_THROW(at_speed({}, 60, 1.5e-5), InputError);
}

TEST(Derived, AClaimIsComparedWithWhatMeshAndHistoryLeaveOpen) {
  Claim claim{"brochure", "a", "CD", 0.3, 0.005, 0};
  const auto compare_one = [&](double speed) {
    claim.speed = speed;
    return compare_claims({claim}, compare({figures("a", 20, 0.32), figures("b", 20, 0.3)}, "a"),
                          "c.toml");
  };
  const auto rows = compare_one(20);
  ASSERT_EQ(rows.size(), 1u);
  EXPECT_NEAR(rows[0].difference.value, 0.02, 1e-12);
  EXPECT_GT(rows[0].difference.uncertainty, std::hypot(0.0032, 0.005));
  EXPECT_FALSE(rows[0].difference.within_noise());
  EXPECT_TRUE(compare_one(30).empty());
}

TEST(Wind, AveragesOverAllDirections) {
  // Without any effect of yaw only the dynamic pressure counts: 1 + (w/v)^2.
  const WindWeights w = wind_weights({0, 0.1, 0.3}, 20, 4);
  double sum = 0;
  for (const double one : w.weights) sum += one;
  EXPECT_NEAR(sum, 1.04, 1e-9);
  EXPECT_NEAR(w.largest_yaw, std::asin(0.2), 1e-4);
  EXPECT_FALSE(w.beyond);
  EXPECT_TRUE(wind_weights({0, 0.1}, 20, 4).beyond);
  // One side given twice is the same as one side.
  const WindWeights both = wind_weights({-0.3, 0, 0.3}, 20, 4), one = wind_weights({0, 0.3}, 20, 4);
  EXPECT_NEAR(both.weights[0] + both.weights[2], one.weights[1], 1e-3);
  EXPECT_THROW(wind_weights({0}, 20, 4), InputError);
  EXPECT_THROW(wind_weights({0, 0.1}, 20, 25), InputError);
}

TEST(Wind, TakesRunsThatDifferInYawOnly) {
  std::vector<Figures> runs;
  for (const auto& [yaw, cd] : {std::pair{"0 deg", 0.30}, {"10 deg", 0.34}})
    for (const char* variant : {"base", "new"}) {
      runs.push_back(figures(variant, 20, cd + (variant[0] == 'n' ? -0.02 : 0)));
      runs.back().run.settings = {{"runs.yaw", yaw}};
    }
  const auto all = wind_averaged(compare(runs, "base"), usual_wind);
  ASSERT_EQ(all.size(), 2u);
  EXPECT_GT(all[0].cd, 0.30 * 1.02);
  EXPECT_LT(all[0].cd, 0.34 * 1.03);
  ASSERT_TRUE(all[1].more);
  EXPECT_NEAR(all[1].more->value, -0.02 * (1 + std::pow(usual_wind / 20, 2)), 1e-9);
}

TEST(MeshIndependence, FindsOrderAndLimitOfAPowerLaw) {
  const auto at = [](double cells) {
    return OnMesh{cells, 0.3 + 2 * std::pow(cells, -1.5 / 3), 0};
  };
  const Extrapolated x = extrapolated({at(1e5), at(3e5), at(1e6)});
  EXPECT_NEAR(x.order, 1.5, 1e-6);
  EXPECT_NEAR(x.value, 0.3, 1e-9);
  EXPECT_NEAR(x.band, 1.25 * 2 * std::pow(1e6, -0.5), 1e-6);
}

TEST(MeshIndependence, WithoutAnOrderTheBandIsOneAndAHalfTimesTheRange) {
  const Extrapolated x = extrapolated({{1e5, 0.30, 0}, {3e5, 0.32, 0}, {1e6, 0.31, 0.001}});
  EXPECT_FALSE(x.usable_order);
  EXPECT_EQ(x.value, 0.31);
  EXPECT_NEAR(x.band, std::hypot(0.03, 0.001), 1e-12);
  EXPECT_THROW(extrapolated({{1e5, 0.3, 0}, {1e6, 0.3, 0}}), InputError);
  EXPECT_THROW(extrapolated({{1e5, 0.3, 0}, {1e6, 0.3, 0}, {1e6, 0.3, 0}}), InputError);
}

}  // namespace
}  // namespace dunefield::test
