// When the means of a run are trusted.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <numbers>
#include <random>

#include <dunefield/run/judge.hpp>

namespace dunefield::test {
namespace {

const ReferenceValues reference{20, 1.2, 2, 3};

/// A history of drag coefficients; the residual falls to a hundredth at once and the momentum
/// balance agrees.
std::vector<HistoryRow> history(int count, const std::function<double(int)>& cd) {
  std::vector<HistoryRow> h;
  for (int i = 1; i <= count; ++i) {
    HistoryRow row;
    row.iteration = i, row.momentum_residual = i < 20 ? 1 : 0.01;
    row.c.cd = cd(i), row.c.cl = 0.1;
    row.momentum_drag = row.c.cd * reference.dynamic_pressure() * reference.frontal_area;
    h.push_back(row);
  }
  return h;
}

TEST(Convergence, AValueThatStandsStillIsSteady) {
  const Convergence c =
      judge(history(300, [](int i) { return 0.3 + std::exp(-i / 15.0); }), reference, {});
  EXPECT_EQ(c.status, RunStatus::steady);
  EXPECT_NEAR(c.cd.mean, 0.3, 1e-4) << "the start-up is cut off";
  EXPECT_GT(c.window_from, 40);
  EXPECT_TRUE(c.why.empty());
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
  EXPECT_NE(c.why.find("CD swings between 0.28"), std::string::npos);
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

TEST(Convergence, TheAccuracyAskedForDecides) {
  const auto h = history(400, [](int i) { return 0.3 + 0.01 * std::sin(i / 4.0); });
  EXPECT_EQ(judge(h, reference, {0.02, 0.005}).status, RunStatus::fluctuating);
  EXPECT_EQ(judge(h, reference, {1e-5, 0.005}).status, RunStatus::not_converged);
}

}  // namespace
}  // namespace dunefield::test
