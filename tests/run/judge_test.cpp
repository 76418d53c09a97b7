// When the means of a run are trusted.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <numbers>
#include <random>
#include <span>

#include <dunefield/run/judge.hpp>
#include <dunefield/run/rest.hpp>

namespace dunefield::test {
namespace {

const ReferenceValues reference{20, 1.2, 2, 3};

/// A history of drag coefficients; the residual falls to a hundredth at once, the momentum balance
/// agrees, and the flow goes on changing.
std::vector<HistoryRow> history(int count, const std::function<double(int)>& cd) {
  std::vector<HistoryRow> h;
  for (int i = 1; i <= count; ++i) {
    HistoryRow row;
    row.iteration = i, row.momentum_residual = i < 20 ? 1 : 0.01;
    row.change = 1e-3;
    row.c.cd = cd(i), row.c.cl = 0.1;
    row.momentum_drag = row.c.cd * reference.dynamic_pressure() * reference.frontal_area;
    h.push_back(row);
  }
  return h;
}

/// The same, of a flow that comes to rest.
std::vector<HistoryRow> resting(int count, const std::function<double(int)>& cd) {
  auto h = history(count, cd);
  for (HistoryRow& row : h) row.change = 1e-2 * std::exp(-row.iteration / 30.0);
  return h;
}

TEST(Convergence, AFlowAtRestIsSteady) {
  const auto h = resting(300, [](int i) { return 0.3 + std::exp(-i / 15.0); });
  const Convergence c = judge(h, reference, {});
  EXPECT_EQ(c.status, RunStatus::steady) << c.why;
  EXPECT_NEAR(c.cd.mean, 0.3, 1e-6) << "the last iterations count";
  EXPECT_TRUE(c.why.empty());
}

TEST(Convergence, ACalmHistoryIsNoProofOfRest) {
  const auto calm = [](int i) { return 0.3 + 1e-5 * std::sin(i / 4.0); };
  EXPECT_EQ(judge(history(300, calm), reference, {}).status, RunStatus::fluctuating)
      << "the flow changes as fast as ever";
  auto h = resting(300, calm);
  EXPECT_EQ(judge(h, reference, {}).status, RunStatus::steady);
  for (auto& row : h) row.momentum_drag *= 1.002;
  EXPECT_NE(judge(h, reference, {}).status, RunStatus::steady) << "the stream loses more than that";
  EXPECT_NE(judge(resting(300, [](int i) { return 0.3 + 2e-5 * i; }), reference, {}).status,
            RunStatus::steady)
      << "it drifts by a third of a percent in a hundred iterations";
}

TEST(Convergence, ASwingOfTenIterationsIsNoRest) {
  const auto swinging_by = [](double amplitude) {
    return resting(
        300, [=](int i) { return 0.3 + amplitude * std::sin(2 * std::numbers::pi * i / 10.0); });
  };
  EXPECT_NE(judge(swinging_by(0.0012), reference, {}).status, RunStatus::steady)
      << "its change in ten iterations falls all the same";
  EXPECT_EQ(judge(swinging_by(0.0003), reference, {}).status, RunStatus::steady);
  auto in_lift = resting(300, [](int) { return 0.3; });
  for (HistoryRow& row : in_lift)
    row.c.cpm = 0.02 * std::sin(2 * std::numbers::pi * row.iteration / 10.0);
  const Rest rest = rest_of(in_lift, reference, {}, false);
  EXPECT_NE(rest.doubt.find("CLF has moved"), std::string::npos) << rest.doubt;
}

TEST(Convergence, AFlowAtRestBeforeItWouldBeDevelopedIsSteady) {
  const auto at_once = [](int i) { return 0.07 + std::exp(-i / 5.0); };
  const auto with_change = [&](double later) {
    auto h = history(220, at_once);
    for (HistoryRow& row : h) row.change = row.iteration < 60 ? 2e-3 : later;
    return judge(h, reference, {}).status;
  };
  EXPECT_EQ(with_change(1e-5), RunStatus::steady);
  EXPECT_EQ(with_change(1e-4), RunStatus::fluctuating) << "only twenty times less than at first";
}

TEST(Convergence, AFlowThatStillCalmsDownIsWaitedFor) {
  auto h = history(300, [](int i) { return 0.3 + 1e-3 * std::exp(-i / 60.0); });
  for (HistoryRow& row : h) row.change = 1e-2 * std::exp(-row.iteration / 60.0);
  h.resize(220);
  const Convergence c = judge(h, reference, {});
  EXPECT_EQ(c.status, RunStatus::not_converged) << "its means are known, but rest is near";
  EXPECT_NE(c.why.find("more iterations"), std::string::npos) << c.why;
  EXPECT_NE(c.why.find("still converging"), std::string::npos) << c.why;
}

TEST(Convergence, WhatARecombinationMovedIsNoMean) {
  auto h = history(400, [](int i) { return i <= 150 ? 0.3 : 0.35; });
  for (int i = 150; i < 400; ++i) h[static_cast<std::size_t>(i)].recombined = true;
  EXPECT_NE(judge(h, reference, {}).why.find("still converging"), std::string::npos);
  const std::vector<HistoryRow> it_alone(h.begin() + 200, h.end());
  EXPECT_NE(judge(it_alone, reference, {}).why.find("still converging"), std::string::npos);
  // Given up, the flow goes on from where that began.
  for (int i = 0; i < 20; ++i) {
    h.push_back(h[149]);
    h.back().iteration = 401 + i;
  }
  const Convergence c = judge(h, reference, {});
  EXPECT_EQ(c.status, RunStatus::fluctuating) << c.why;
  EXPECT_NEAR(c.cd.mean, 0.3, 1e-9) << "what came before it counts, and what after it";
  EXPECT_EQ(c.cd.most, 0.3);
}

TEST(Convergence, HowManyIterationsAMeanNeeds) {
  std::mt19937 random(5);
  std::normal_distribution<double> noise(0, 0.01);
  std::vector<double> v;
  double x = 0;
  for (int i = 0; i < 3000; ++i) v.push_back(x = 0.9 * x + noise(random));
  const WindowMean m = window_mean(v, 10);
  EXPECT_NEAR(iterations_for(m, m.half_interval / 2), 4 * 3000, 0.05 * 4 * 3000);
}

TEST(Convergence, FarFromTheBaselineLessIsEnough) {
  std::mt19937 random(8);
  std::normal_distribution<double> noise(0, 0.0015);
  double x = 0;
  const auto h = history(300, [&](int) { return 0.25 + (x = 0.9 * x + noise(random)); });
  AccuracyWanted wanted{0.005, 0.01};
  const Convergence alone = judge(h, reference, wanted);
  EXPECT_EQ(alone.status, RunStatus::not_converged);
  EXPECT_GT(alone.cd.half_interval, 0.005 * 0.25);
  wanted.of_difference = 0.1;
  EXPECT_EQ(judge(h, reference, wanted).status, RunStatus::not_converged) << "from nothing";
  wanted.compared_drag = 0.3;
  const Convergence far = judge(h, reference, wanted);
  EXPECT_EQ(far.status, RunStatus::fluctuating) << far.why;
  EXPECT_DOUBLE_EQ(far.cd.half_interval, alone.cd.half_interval) << "told as it is";
  wanted.lift = 1e-9;
  auto swaying = h;
  for (HistoryRow& row : swaying) row.c.cl += row.c.cd - 0.25;
  EXPECT_NE(judge(swaying, reference, wanted).why.find("CLF"), std::string::npos);
  wanted.lift = 0.01, wanted.drag = 0.001, wanted.of_difference = 0.3;
  EXPECT_EQ(judge(swaying, reference, wanted).status, RunStatus::fluctuating)
      << "lifts in proportion";
  wanted.compared_drag = 0.252;
  EXPECT_EQ(judge(h, reference, wanted).status, RunStatus::not_converged);
}

TEST(Convergence, ASwingAboutAMeanIsFluctuatingWithItsPeriod) {
  const Convergence c = judge(
      history(600, [](int i) { return 0.3 + 0.02 * std::sin(2 * std::numbers::pi * i / 24.0); }),
      reference, {0.01, 0.005});
  EXPECT_EQ(c.status, RunStatus::fluctuating);
  EXPECT_NEAR(c.cd.mean, 0.3, 0.0015);
  EXPECT_NEAR(c.cd.least, 0.28, 1e-3);
  EXPECT_NEAR(c.cd.most, 0.32, 1e-3);
  EXPECT_NEAR(c.period, 24, 1);
  EXPECT_NE(c.why.find("CD varies between 0.28"), std::string::npos);
}

TEST(Convergence, ACalmStretchIsNoSurerThanTheFlowThatItIsOf) {
  const auto swinging = [](int i, double calm) {
    return calm * 0.002 * (std::sin(i / 7.0) + std::sin(i / 17.3) + std::sin(i / 41.0));
  };
  const auto h = history(
      700, [&](int i) { return i < 350 ? 0.3 + swinging(i, 1) : 0.2975 + swinging(i, 0.25); });
  const Convergence c = judge(h, reference, {0.01, 0.01});
  EXPECT_GT(c.cd.half_interval, std::abs(c.cd.mean - 0.2985)) << "the mean of both stretches";
  EXPECT_LT(c.cd.half_interval, 0.003) << "nor is it taken for a flow that is not known at all";
}

TEST(Convergence, ASlowStartIsNotHeldAgainstALongHistory) {
  std::mt19937 random(4);
  std::normal_distribution<double> noise(0, 0.0013);
  double x = 0;
  const auto h =
      history(1000, [&](int i) { return (i < 150 ? 0.29 : 0.3) + (x = 0.9 * x + noise(random)); });
  const Convergence c = judge(h, reference, {0.01, 0.01}, true);
  EXPECT_EQ(c.status, RunStatus::fluctuating) << c.why;
  EXPECT_NEAR(c.cd.mean, 0.3, c.cd.half_interval);
  EXPECT_LT(c.cd.half_interval, 0.0025);
}

TEST(Convergence, ASwingWhoseLevelWandersIsNoSurerByItsPeriod) {
  std::mt19937 random(11);
  std::normal_distribution<double> step(0, 0.0004);
  double level = 0;
  const auto h = history(600, [&](int i) {
    level = 0.97 * level + step(random);
    return 0.3 + level + 0.0016 * std::sin(2 * std::numbers::pi * i / 30.0);
  });
  const Convergence c = judge(h, reference, {0.01, 0.01});
  EXPECT_NEAR(c.period, 30, 3) << "is told";
  std::vector<double> values;
  for (const HistoryRow& row : std::span(h).last(static_cast<std::size_t>(c.cd.count)))
    values.push_back(row.c.cd);
  EXPECT_GE(c.cd.half_interval, window_mean(values).half_interval);
}

TEST(Convergence, ADriftIsNotConvergedAndSaysSo) {
  const Convergence c = judge(history(400, [](int i) { return 0.3 + 1e-4 * i; }), reference, {});
  EXPECT_EQ(c.status, RunStatus::not_converged);
  EXPECT_NE(c.why.find("CD still drifts"), std::string::npos);
}

TEST(Convergence, ASlowWanderingIsNotTakenForAMean) {
  // Each value is nearly the one before: 400 of them say little about the mean.
  std::mt19937 random(3);
  std::normal_distribution<double> step(0, 0.004);
  double x = 0;
  const Convergence c =
      judge(history(400, [&](int) { return 0.3 + (x = 0.985 * x + step(random)); }), reference, {});
  EXPECT_EQ(c.status, RunStatus::not_converged);
}

TEST(Convergence, NeedsIterationsResidualAndMomentum) {
  const auto flat = [](int) { return 0.3; };
  EXPECT_EQ(judge(history(100, flat), reference, {}).why, "100 iterations are too few to judge");
  auto h = history(300, flat);
  for (auto& row : h) row.momentum_residual = 1;
  EXPECT_NE(judge(h, reference, {}).why.find("residual"), std::string::npos);
  EXPECT_TRUE(judge(h, reference, {}, true).settled())
      << "a run that starts from another's result has no start-up to fall from";
  h = history(300, flat);
  for (auto& row : h) row.momentum_drag *= 1.01;
  EXPECT_NE(judge(h, reference, {}).why.find("momentum"), std::string::npos);
  EXPECT_EQ(judge({}, reference, {}).status, RunStatus::not_converged);
}

TEST(Convergence, MomentumStoredByASwingIsForgivenWithinTheAccuracyAskedFor) {
  const auto swinging = [](double lasting) {
    auto h = history(600, [](int i) { return 0.3 + 0.009 * std::sin(i / 5.0); });
    for (auto& row : h) row.momentum_drag *= 1 + lasting + 0.03 * std::cos(row.iteration / 7.0);
    return judge(h, reference, {0.02, 0.005});
  };
  EXPECT_EQ(swinging(0.001).status, RunStatus::fluctuating) << swinging(0.001).why;
  EXPECT_NE(swinging(0.03).why.find("momentum"), std::string::npos)
      << "lasts, and is more than was asked for";
}

TEST(Convergence, ASwingThatTheStreamDoesNotConfirmIsTheIterationsOwn) {
  auto h =
      history(400, [](int i) { return 0.3 + 0.004 * std::sin(2 * std::numbers::pi * i / 17.0); });
  EXPECT_FALSE(swings_by_itself(judge(h, reference, {}), reference, {})) << "it settles";
  for (HistoryRow& row : h) row.momentum_drag *= 1.0075;
  const Convergence c = judge(h, reference, {});
  EXPECT_EQ(c.status, RunStatus::not_converged);
  EXPECT_NEAR(c.period, 17, 1);
  EXPECT_TRUE(swings_by_itself(c, reference, {}));
  EXPECT_FALSE(swings_by_itself(c, reference, {.drag = 0.01, .lift = 0.01})) << "near enough";
}

TEST(Convergence, ADifferenceThatKeepsTheIntervalTooWideIsNotWaitedFor) {
  auto h = history(400, [](int i) {
    return 0.3 + 0.008 * std::sin(2 * std::numbers::pi * i / 17.0) + 0.003 * std::sin(i / 6.1);
  });
  for (HistoryRow& row : h) row.momentum_drag *= 1.0045;
  const Convergence c = judge(h, reference, {});
  ASSERT_EQ(c.status, RunStatus::not_converged)
      << "less than the half per cent asked for, but the history leaves something open, too";
  EXPECT_LT(c.cd.half_interval, 0.0015);
  EXPECT_TRUE(swings_by_itself(c, reference, {}));
}

TEST(Convergence, WhatCameBeforeARecombinationThatIsNotThroughHasAMean) {
  auto h = history(500, [](int i) {
    return i < 420 ? 0.3 + 0.004 * std::sin(2 * std::numbers::pi * i / 17.0) : 0.32;
  });
  for (std::size_t i = 420; i < h.size(); ++i) h[i].recombined = true;
  EXPECT_EQ(judge(h, reference, {}).status, RunStatus::not_converged);
  const Convergence c = judge(plain_rows(h), reference, {});
  EXPECT_EQ(c.status, RunStatus::fluctuating) << c.why;
  EXPECT_NEAR(c.cd.mean, 0.3, 1e-3);
}

TEST(Convergence, WhatTheStreamLosesBesideTheDragIsPartOfTheInterval) {
  auto h =
      history(400, [](int i) { return 0.3 + 0.004 * std::sin(2 * std::numbers::pi * i / 17.0); });
  const Convergence confirmed = judge(h, reference, {0.01, 0.005});
  for (HistoryRow& row : h) row.momentum_drag *= 1.006;
  const Convergence differing = judge(h, reference, {0.01, 0.005});
  EXPECT_EQ(differing.status, RunStatus::fluctuating) << differing.why;
  EXPECT_NEAR(differing.cd.half_interval - confirmed.cd.half_interval, 0.006 * 0.3, 2e-5);
  EXPECT_NE(differing.why.find("momentum differ by 0.60 %"), std::string::npos) << differing.why;
  EXPECT_EQ(judge(h, reference, {0.005, 0.005}).status, RunStatus::not_converged);
}

TEST(Convergence, TheAccuracyAskedForDecides) {
  const auto h = history(400, [](int i) { return 0.3 + 0.01 * std::sin(i / 4.0); });
  EXPECT_EQ(judge(h, reference, {0.02, 0.005}).status, RunStatus::fluctuating);
  EXPECT_EQ(judge(h, reference, {1e-5, 0.005}).status, RunStatus::not_converged);
}

}  // namespace
}  // namespace dunefield::test
