#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>
#include <vector>

#include <dunefield/balance/statistics.hpp>

namespace dunefield {
namespace {

TEST(WindowMean, KnowsMeanLeastAndMost) {
  const std::vector<double> v = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10};
  const WindowMean w = window_mean(v);
  EXPECT_DOUBLE_EQ(w.mean, 5.5);
  EXPECT_EQ(w.least, 1);
  EXPECT_EQ(w.most, 10);
  EXPECT_EQ(window_mean({}).count, 0);
}

TEST(WindowMean, IntervalHoldsTheTrueMeanOfACorrelatedSeriesMostly) {
  std::mt19937 random(3);
  std::normal_distribution<double> noise;
  int held = 0;
  constexpr int trials = 400;
  for (int t = 0; t < trials; ++t) {
    std::vector<double> v;
    double x = 0;
    for (int i = 0; i < 400; ++i) v.push_back(x = 0.8 * x + noise(random));
    const WindowMean w = window_mean(v);
    held += std::abs(w.mean) < w.half_interval;
  }
  EXPECT_GT(held, 0.88 * trials);
  EXPECT_LT(held, trials) << "an interval that always holds says nothing";
}

TEST(WindowMean, PartsOfASwingAreNoScatter) {
  std::vector<double> v;
  for (int i = 0; i < 210; ++i) v.push_back(1 + 0.1 * std::sin(i * 2 * std::numbers::pi / 30));
  EXPECT_LT(window_mean(v, 30).half_interval, 1e-9) << "seven whole periods";
  EXPECT_GT(window_mean(v).half_interval, 0.005);
}

}  // namespace
}  // namespace dunefield
