#include <gtest/gtest.h>
#include <dunefield/flow/pseudo_time.hpp>

namespace dunefield {
namespace {

TEST(PseudoTime, StepsGrowOnceTheFlowHasDeveloped) {
  const FlowOptions o;
  const PseudoTimeStep first = pseudo_time_step(o, -80), last = pseudo_time_step(o, 1000);
  EXPECT_EQ(first.courant, o.starting_courant);
  EXPECT_EQ(last.courant, o.courant);
  EXPECT_EQ(last.momentum_sweeps, o.momentum_sweeps);
  EXPECT_LT(first.momentum_sweeps, last.momentum_sweeps);
  for (int i = -5; i < 200; ++i) {
    const double now = pseudo_time_step(o, i).courant, next = pseudo_time_step(o, i + 1).courant;
    EXPECT_GE(next, now);
    EXPECT_LE(next, 1.05 * now) << "no jump shakes the flow, iteration " << i;
  }
}

TEST(PseudoTime, ACaseWithShortStepsKeepsThem) {
  FlowOptions o;
  o.courant = 3;
  for (const int i : {-80, 0, 500}) EXPECT_EQ(pseudo_time_step(o, i).courant, 3);
  EXPECT_LE(pseudo_time_step(o, 500).turbulence_courant, 4 * 3);
}

TEST(PseudoTime, ABackOffShortensStepsFromTheStartOn) {
  const FlowOptions o, shorter = with_steps_shortened(o, 0.4);
  for (const int i : {-80, 0, 20, 1000}) {
    const PseudoTimeStep plain = pseudo_time_step(o, i), s = pseudo_time_step(shorter, i);
    EXPECT_NEAR(s.courant / plain.courant, 0.4, 1e-12);
    EXPECT_NEAR(s.turbulence_courant / plain.turbulence_courant, 0.4, 1e-12);
  }
}

}  // namespace
}  // namespace dunefield
