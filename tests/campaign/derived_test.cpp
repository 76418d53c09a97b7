// Figures that follow from others, and the energy of a round.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/derived.hpp>

namespace dunefield::test {
namespace {

Figures figures(const std::string& variant, double speed, double cd) {
  Figures f;
  f.run.variant = variant, f.run.speed = speed, f.run.recipe = "scout";
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
  const auto rows = over_round(round, runs, "base");
  ASSERT_EQ(rows.size(), 2u);
  EXPECT_FALSE(rows[0].more.has_value());
  const double unit = 0.5 * 1.2 * 400 * 2 * 10000;
  EXPECT_NEAR(rows[1].more->value, -0.03 * unit, 1e-6);
  EXPECT_NEAR(rows[1].more->uncertainty, compare(runs, "base")[0].rows[1].cd->uncertainty * unit,
              1e-6);
}

}  // namespace
}  // namespace dunefield::test
