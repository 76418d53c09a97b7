// Which run of a matrix starts from which.
#include <gtest/gtest.h>

#include <dunefield/campaign/starts.hpp>

namespace dunefield::test {
namespace {

TEST(Starts, FollowFromTheMatrixAlone) {
  const std::vector<MatrixRun> matrix = {
      {0, 20, 0, 0}, {0, 30, 0, 0}, {0, 40, 0, 0}, {0, 20, 1, 0}, {0, 30, 1, 0},
      {0, 20, 2, 0}, {1, 20, 0, 0}, {1, 30, 0, 0}, {2, 20, 0, 0}, {0, 20, 0, 1},
      {0, 30, 0, 1}, {1, 20, 0, 1}, {1, 20, 1, 1}, {3, 50, 0, 0},
  };
  EXPECT_EQ(starts(matrix),
            (std::vector<int>{from_nothing, 0, 0,           // other speeds: the first
                              0, 3,                         // a setting: the one before
                              3, 0, 6, 0,                   // a variant: the first one
                              0, 9, 6, 11, from_nothing}))  // a lattice: the first one
      << "a new speed of a new variant is like none";
  EXPECT_TRUE(starts({}).empty());
}

TEST(Starts, TheBaselinesRunIsAnEarlierOneAtTheSameConditions) {
  const std::vector<MatrixRun> matrix = {
      {0, 20, 0, 0}, {0, 30, 0, 0}, {0, 20, 1, 0}, {1, 20, 0, 0}, {1, 30, 0, 0},
      {1, 20, 1, 0}, {1, 30, 1, 0}, {2, 20, 0, 0}, {0, 20, 0, 1}, {1, 20, 0, 1},
  };
  constexpr int none = from_nothing;
  EXPECT_EQ(baseline_runs(matrix, 0),
            (std::vector<int>{none, none, none, 0, 1, 2, none, 0, none, 8}));
  EXPECT_EQ(baseline_runs(matrix, 1),
            (std::vector<int>{none, none, none, none, none, none, none, 3, none, none}))
      << "what comes before it cannot wait for it";
}

}  // namespace
}  // namespace dunefield::test
