// Series of taps and rakes come to means with honest intervals, and to frequencies.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include <dunefield/record/probe_series.hpp>

namespace dunefield {
namespace {

/// A tap that swings at 7 Hz about 30 Pa behind a start at 500 Pa, and a rake's point.
ProbeSeries made_up() {
  ProbeSeries s;
  s.probes = {{"nose", 0, {-1, 0, 0.5}}, {"wake", 1, {3, 0, 0.5}}};
  for (int i = 1; i <= 1200; ++i) {
    const double t = 0.005 * i;
    s.time.push_back(t);
    const double swing = std::sin(2 * std::numbers::pi * 7 * t);
    s.values.push_back(static_cast<float>(t < 1 ? 500 : 30 + 4 * swing));
    for (const double v : {1.0, 20.0, -3.0, swing}) s.values.push_back(static_cast<float>(v));
  }
  return s;
}

TEST(ProbeSeries, GivesEachColumn) {
  const ProbeSeries s = made_up();
  EXPECT_EQ(s.width(), 5u);
  EXPECT_EQ(s.step_at(1), 199u);
  EXPECT_EQ(s.of(0, 0).size(), 1200u);
  EXPECT_FLOAT_EQ(static_cast<float>(s.of(1, 1, 1199).at(0)), 20);
}

TEST(ProbeSeries, MeansLeaveTheStartUpOut) {
  const auto all = statistics_of(made_up(), 1);
  ASSERT_EQ(all.size(), 5u);
  EXPECT_NEAR(all[0].mean.mean, 30, 0.2);
  EXPECT_LT(all[0].mean.half_interval, 1) << "of a swing of 4";
  EXPECT_NEAR(all[0].deviation, 4 / std::sqrt(2.0), 0.05);
  EXPECT_NEAR(all[0].peak, 7, 0.3);
  EXPECT_EQ(all[1].peak, 0) << "a value that does not change has no frequency";
  EXPECT_NEAR(all[4].peak, 7, 0.3);
  EXPECT_TRUE(statistics_of(made_up(), 100).empty());
  EXPECT_TRUE(statistics_of({}, 0).empty());
}

}  // namespace
}  // namespace dunefield
