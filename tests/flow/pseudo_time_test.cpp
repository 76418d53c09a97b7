#include <gtest/gtest.h>
#include <dunefield/flow/pseudo_time.hpp>

namespace dunefield {
namespace {

TEST(PseudoTime, StepsGrowOnceTheFlowHasDeveloped) {
  const FlowOptions o;
  const PseudoTimeStep first = pseudo_time_step(o, 0), last = pseudo_time_step(o, 1000);
  EXPECT_EQ(first.courant, o.starting_courant);
  EXPECT_EQ(last.courant, o.courant);
  EXPECT_EQ(last.momentum_sweeps, o.momentum_sweeps);
  EXPECT_LT(first.momentum_sweeps, last.momentum_sweeps);
  for (int i = 0; i < 200; ++i) {
    const double now = pseudo_time_step(o, i).courant, next = pseudo_time_step(o, i + 1).courant;
    EXPECT_GE(next, now);
    EXPECT_LE(next, 1.05 * now) << "no jump shakes the flow, iteration " << i;
  }
}

TEST(PseudoTime, ACaseWithShortStepsKeepsThem) {
  FlowOptions o;
  o.courant = 3;
  for (const int i : {0, 30, 500}) EXPECT_EQ(pseudo_time_step(o, i).courant, 3);
  EXPECT_LE(pseudo_time_step(o, 500).turbulence_courant, 4 * 3);
}

TEST(PseudoTime, StepsOfAFlowThatComesToRestStayAsTheyAre) {
  StepGrowth resting, swinging(StepGrowth::from_another);
  double change = 1;
  for (int i = 0; i < 200; ++i) {
    resting.next(i), swinging.next(i);
    if (i % 10 == 9) resting.note_change(change *= 0.5), swinging.note_change(0.1);
  }
  EXPECT_EQ(resting.grown(), 0);
  EXPECT_EQ(swinging.grown(), 180);
  const StepGrowth saved = StepGrowth::of(swinging.numbers());
  EXPECT_EQ(saved.numbers(), swinging.numbers());
}

TEST(PseudoTime, ABackOffShortensStepsFromTheStartOn) {
  const FlowOptions o, shorter = with_steps_shortened(o, 0.4);
  for (const int i : {0, 20, 1000}) {
    const PseudoTimeStep plain = pseudo_time_step(o, i), s = pseudo_time_step(shorter, i);
    EXPECT_NEAR(s.courant / plain.courant, 0.4, 1e-12);
    EXPECT_NEAR(s.turbulence_courant / plain.turbulence_courant, 0.4, 1e-12);
  }
}

}  // namespace
}  // namespace dunefield
