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
  f.run.blunt = 1;  // it ends at edges
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
  const auto scatter = [](const char* recipe) {
    return 0.30 * 2 * paired_scatter(figures("base", 0.30, 0.001, recipe).run).drag;
  };
  const double scout = scatter("scout"), finer = scatter("standard");
  EXPECT_EQ(verdict(0.30 - 0.9 * scout, "scout"), Verdict::within_noise);
  EXPECT_EQ(verdict(0.30 - 2 * scout, "scout"), Verdict::better);
  EXPECT_EQ(verdict(0.30 + 2 * scout, "scout"), Verdict::worse);
  EXPECT_EQ(verdict(0.30 - 0.9 * finer, "standard"), Verdict::within_noise);
  EXPECT_EQ(verdict(0.30 - 3 * finer, "standard"), Verdict::better);
  EXPECT_EQ(verdict(0.20, "sketch"), Verdict::sketch) << "however large";
}

TEST(Comparison, LeavesLargerThanTheRecipesAreLessCertain) {
  Figures base = figures("base", 0.30, 0.001), other = figures("new", 0.29, 0.001);
  const auto uncertainty = [&] {
    return compare({base, other}, "base").at(0).rows.at(1).cd->uncertainty;
  };
  const double usual = uncertainty();
  base.run.coarseness = other.run.coarseness = 2;
  EXPECT_NEAR(uncertainty() / usual, 2, 0.1) << "histories are a small share of both";
}

TEST(Comparison, VehiclesWithoutEdgesAtTheirEndAreLessCertain) {
  Figures base = figures("base", 0.30, 0.001), other = figures("new", 0.28, 0.001);
  const auto row = [&] { return compare({base, other}, "base").at(0).rows.at(1); };
  EXPECT_EQ(row().verdict, Verdict::better);
  const double sure = row().cd->uncertainty;
  other.run.blunt = 0.2;  // one of both is enough
  EXPECT_GT(row().cd->uncertainty, 1.5 * sure);
  std::swap(base.run.blunt, other.run.blunt);
  EXPECT_GT(row().cd->uncertainty, 1.5 * sure);
}

TEST(Comparison, DifferencesAreTakenLatticeByLattice) {
  // Each lattice shifts both by as much: that cancels.
  std::vector<Figures> runs;
  for (int lattice = 0; lattice < 4; ++lattice)
    for (const char* name : {"base", "new"}) {
      Figures f = figures(name, 0.30 + 0.01 * lattice - (name[0] == 'n' ? 0.006 : 0), 0.0005);
      f.run.lattice = lattice;
      runs.push_back(f);
    }
  const auto c = compare(runs, "base");
  const ComparisonRow& row = c.at(0).rows.at(1);
  EXPECT_EQ(row.lattices, 4);
  EXPECT_EQ(row.pairs, 4);
  EXPECT_NEAR(row.run.cd.mean, 0.309, 1e-12) << "the mean of all";
  EXPECT_NEAR(row.cd->value, -0.006, 1e-12);
  const auto alone = compare({runs[0], runs[1]}, "base");
  EXPECT_LT(row.cd->uncertainty, 0.51 * alone[0].rows[1].cd->uncertainty)
      << "four say more than one";
  EXPECT_EQ(row.verdict, Verdict::better);
}

TEST(Comparison, DifferencesThatScatterAreLessCertain) {
  std::vector<Figures> runs;
  for (int lattice = 0; lattice < 4; ++lattice) {
    runs.push_back(figures("base", 0.30, 0.0005));
    runs.push_back(figures("new", lattice % 2 ? 0.28 : 0.30, 0.0005));
    runs[runs.size() - 2].run.lattice = runs.back().run.lattice = lattice;
  }
  EXPECT_GT(compare(runs, "base")[0].rows[1].cd->uncertainty, 0.005);
  runs[0].run.lattice = 7;
  EXPECT_EQ(compare(runs, "base")[0].rows[1].pairs, 3) << "one has no partner";
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
  EXPECT_GT(d.uncertainty, 1.96 * paired_scatter(base.run).clr);
  EXPECT_FALSE(d.within_noise());
}

TEST(Comparison, BetterDependsOnWhatIsWanted) {
  Figures base = figures("base", 0.30, 0.001), run = figures("new", 0.36, 0.001);
  run.clf.mean = -0.2, run.clr.mean = 0;
  const ComparisonRow row = compare({base, run}, "base")[0].rows[1];
  Wants downforce{false, false, true, false}, both{true, false, true, false};
  EXPECT_EQ(verdict_in_words(row, {}), "more drag");
  EXPECT_EQ(verdict_in_words(row, downforce),
            "more downforce in front, at the rear within the noise: better");
  EXPECT_EQ(verdict_in_words(row, both),
            "more drag, more downforce in front, at the rear within the noise: a trade");
  EXPECT_FALSE(add_want(both, "more beauty"));
}

TEST(Comparison, PartsAreInOrderOfWhatTheyChange) {
  Figures base = figures("base", 0.30, 0.001), run = figures("new", 0.29, 0.001);
  base.parts = {{"body", 0.25, 0.1}, {"wheels", 0.05, 0}, {"mirror left", 0, 0}};
  run.parts = {
      {"body", 0.21, 0.1}, {"wheels", 0.05, 0}, {"skirts", 0.03, -0.01}, {"mirror left", 0, 0}};
  const auto parts = by_part(run, base);
  ASSERT_EQ(parts.size(), 2u) << "what changes nothing is not told";
  EXPECT_EQ(parts[0].part, "body");
  EXPECT_NEAR(parts[0].cd, -0.04, 1e-12);
  EXPECT_EQ(parts[1].part, "skirts");
  EXPECT_NEAR(parts[1].cd, 0.03, 1e-12) << "what only one has counts whole";
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

TEST(Comparison, IsOfRunsWithTheSameSettings) {
  std::vector<Figures> runs;
  for (const char* height : {"-10 mm", "0 mm"})
    for (const char* variant : {"base", "new"}) {
      runs.push_back(figures(variant, variant[0] == 'n' ? 0.29 : 0.30, 0.0005));
      runs.back().run.settings = {{"ride.front", height}};
      // A setting of this variant alone is part of its name.
      if (variant[0] == 'n') runs.back().run.settings.push_back({"variant.new.ride.rear", "5 mm"});
    }
  const auto all = compare(runs, "base");
  ASSERT_EQ(all.size(), 2u);
  EXPECT_EQ(conditions_in_words(all[1].speed, all[1].settings), "90 km/h, ride.front 0 mm");
  ASSERT_EQ(all[1].rows.size(), 2u);
  EXPECT_EQ(all[1].rows[1].run.run.variant, "new, ride.rear 5 mm");
  EXPECT_NEAR(all[1].rows[1].cd->value, -0.01, 1e-12);
}

}  // namespace
}  // namespace dunefield::test
