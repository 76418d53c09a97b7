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

TEST(WindowMean, MemoryIsTheSumOfTheAutocorrelations) {
  std::mt19937 random(7);
  std::normal_distribution<double> noise;
  std::vector<double> v;
  double x = 0;
  for (int i = 0; i < 20000; ++i) v.push_back(x = 0.9 * x + noise(random));
  EXPECT_NEAR(window_mean(v).memory, 19, 2) << "(1 + 0.9) / (1 - 0.9)";
  EXPECT_EQ(window_mean(v, 50).memory, 50) << "known to be longer";
  const std::vector<double> few(v.begin(), v.begin() + 90);
  const WindowMean w = window_mean(few, 50);
  EXPECT_EQ(w.half_interval, w.most - w.least) << "not worth two values";
}

TEST(WindowMean, StudentsPoints) {
  for (const auto& [nu, t] : {std::pair{2.0, 4.303}, {3.0, 3.182}, {5.0, 2.571}, {20.0, 2.086}})
    EXPECT_NEAR(student_t(nu), t, 0.01 * t);
}

}  // namespace
}  // namespace dunefield
