#include <gtest/gtest.h>

#include <atomic>
#include <numeric>

#include <dunefield/parallel/communicator.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

class Ranks : public testing::TestWithParam<int> {};

TEST_P(Ranks, SumInRankOrder) {
  const int n = GetParam();
  double expected = 0;
  for (int r = 0; r < n; ++r) expected += 0.1 * (r + 1);
  run_on_threads(n, [&](Communicator& comm) { EXPECT_EQ(comm.sum(0.1 * (comm.rank() + 1)), expected); });
}

TEST_P(Ranks, AgreeOnGreatestLeastAndAny) {
  const int n = GetParam();
  run_on_threads(n, [&](Communicator& comm) {
    EXPECT_EQ(comm.max(comm.rank()), n - 1);
    EXPECT_EQ(comm.min(comm.rank()), 0);
    EXPECT_TRUE(comm.any(comm.rank() == n - 1));
    EXPECT_FALSE(comm.any(false));
  });
}

TEST_P(Ranks, GatherVectorsOfAnyLength) {
  run_on_threads(GetParam(), [&](Communicator& comm) {
    const auto all = comm.all_gather(std::vector<int>(static_cast<std::size_t>(comm.rank()), 7));
    for (int r = 0; r < comm.size(); ++r) EXPECT_EQ(all[static_cast<std::size_t>(r)].size(), static_cast<std::size_t>(r));
  });
}

INSTANTIATE_TEST_SUITE_P(OneTwoFour, Ranks, testing::Values(1, 2, 4));

TEST(Threads, ReceiveMessagesInTheOrderSent) {
  run_on_threads(2, [](Communicator& comm) {
    for (int i = 0; i < 100; ++i) {
      int number = i;
      if (comm.rank() == 0) {
        comm.send(1, std::span<const int>(&number, 1));
      } else {
        comm.receive(0, std::span(&number, 1));
        EXPECT_EQ(number, i);
      }
    }
  });
}

TEST(Threads, OneRanksFailureEndsTheOthers) {
  EXPECT_THROW(run_on_threads(4, [](Communicator& comm) {
    if (comm.rank() == 2) throw std::runtime_error("lost");
    comm.sum(1.0);
  }), std::runtime_error);
}

TEST(ParallelFor, VisitsEachIndexOnce) {
  std::vector<std::atomic<int>> visits(10001);
  parallel_for(visits.size(), [&](std::size_t i) { ++visits[i]; }, 100);
  for (const auto& v : visits) ASSERT_EQ(v, 1);
}

}  // namespace
}  // namespace dunefield
