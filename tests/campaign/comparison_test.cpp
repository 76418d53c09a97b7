// Variants against a baseline that is fixed by its name.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/comparison.hpp>

namespace dunefield::test {
namespace {

Figures figures(const std::string& variant, double cd, double interval,
                const std::string& recipe = "scout") {
  Figures f;
  f.run.variant = variant, f.run.speed = 25, f.run.recipe = recipe;
  f.status = RunStatus::fluctuating;
  f.reference = {25, 1.2, 2, 3};
  f.cd.mean = cd, f.cd.half_interval = interval;
  f.drag = cd * f.reference.dynamic_pressure() * 2;
  return f;
}

TEST(Comparison, JudgesOnlyDifferencesAboveTheirUncertainty) {
  const auto verdict = [](double cd, const char* recipe) {
    return compare({figures("base", 0.30, 0.001, recipe), figures("new", cd, 0.001, recipe)},
                   "base")
        .at(0)
        .rows.at(1)
        .verdict;
  };
  EXPECT_EQ(verdict(0.292, "scout"), Verdict::within_noise) << "under 3 % a scout says nothing";
  EXPECT_EQ(verdict(0.270, "scout"), Verdict::better);
  EXPECT_EQ(verdict(0.330, "scout"), Verdict::worse);
  EXPECT_EQ(verdict(0.292, "standard"), Verdict::within_noise) << "nor a finer recipe under 2.7 %";
  EXPECT_EQ(verdict(0.2915, "scout"), Verdict::within_noise);
  EXPECT_EQ(verdict(0.2915, "standard"), Verdict::better);
}

TEST(Comparison, TheBaselineIsTheOneNamedAndNotTheFirstPresent) {
  const auto c = compare({figures("new", 0.25, 0.001), figures("base", 0.30, 0.001)}, "base");
  EXPECT_EQ(c.at(0).rows.at(0).verdict, Verdict::better);
  EXPECT_EQ(c.at(0).rows.at(1).verdict, Verdict::baseline);
  // Its run failed: the others are not compared among themselves.
  const auto without = compare({figures("a", 0.25, 0.001), figures("b", 0.30, 0.001)}, "base");
  EXPECT_FALSE(without.at(0).baseline.has_value());
  for (const ComparisonRow& r : without.at(0).rows) {
    EXPECT_EQ(r.verdict, Verdict::no_baseline);
    EXPECT_FALSE(r.drag.has_value());
  }
}

TEST(Comparison, WhatHasNotSettledGetsNoVerdict) {
  Figures base = figures("base", 0.30, 0.001), run = figures("new", 0.20, 0.001);
  run.status = RunStatus::not_converged;
  EXPECT_EQ(compare({base, run}, "base")[0].rows[1].verdict, Verdict::not_settled);
  run.status = RunStatus::steady, base.status = RunStatus::stopped;
  EXPECT_EQ(compare({base, run}, "base")[0].rows[1].verdict, Verdict::not_settled);
}

TEST(Comparison, LiftDifferencesHaveAnUncertainty) {
  Figures base = figures("base", 0.30, 0.001), run = figures("new", 0.30, 0.001);
  base.clr.mean = 0.1, base.clr.half_interval = 0.004;
  run.clr.mean = 0.05, run.clr.half_interval = 0.003;
  const Difference d = *compare({base, run}, "base")[0].rows[1].clr;
  EXPECT_NEAR(d.value, -0.05, 1e-12);
  EXPECT_GT(d.uncertainty, mesh_scatter("scout").clr * std::sqrt(2.0));
  EXPECT_FALSE(d.within_noise());
}

TEST(Comparison, RecordsThatAreNotAlikeAreRefusedWithWhatDiffers) {
  Record a, b;
  a.run.speed = b.run.speed = 25, a.run.recipe = b.run.recipe = "scout";
  a.reference = b.reference = {25, 1.2, 2, 3};
  a.status = b.status = RunStatus::steady;
  a.convergence.cd.mean = 0.3, b.convergence.cd.mean = 0.2;
  EXPECT_NE(compared_briefly(a, b).find("less drag"), std::string::npos);
  const auto refusal = [&] {
    try {
      compared_briefly(a, b);
    } catch (const InputError& e) {
      return std::string(e.what());
    }
    return std::string();
  };
  b.run.layers = 3;
  EXPECT_NE(refusal().find("layers differ"), std::string::npos);
  b.run.layers = 0, b.run.speed = 20;
  EXPECT_NE(refusal().find("speeds differ"), std::string::npos);
}

}  // namespace
}  // namespace dunefield::test
