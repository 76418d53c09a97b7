// The same checks and the same flow case on 1, 2 and 4 ranks, as threads and as processes.
#include <gtest/gtest.h>

#include <atomic>

#include <fmt/format.h>

#include <dunefield/parallel/parallel_for.hpp>
#include <tests/parallel/communicator_checks.hpp>
#include <tests/parallel/small_case.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

double drag_on_threads(int ranks) {
  double drag = 0;
  run_on_threads(ranks, [&](Communicator& comm) {
    const double d = small_case_drag(comm);
    if (comm.rank() == 0) drag = d;
  });
  return drag;
}

class Ranks : public testing::TestWithParam<int> {};

TEST_P(Ranks, AsThreadsDoWhatACommunicatorMust) { run_on_threads(GetParam(), check_communicator); }

#ifdef DUNEFIELD_MPI
TEST_P(Ranks, AsProcessesDoTheSameAndGiveTheSameBits) {
  const ProcessResult r =
      shell(fmt::format("mpiexec --allow-run-as-root --oversubscribe -n {0} {1} {0}", GetParam(),
                        DUNEFIELD_RANK_PROGRAM));
  ASSERT_EQ(r.exit_code, 0) << r.err;
  EXPECT_EQ(r.out, fmt::format("ranks {} drag {}\n", GetParam(),
                               fmt::format("{:a}", drag_on_threads(GetParam()))));
}

TEST(Processes, OneThatFailsOrDiesEndsTheJob) {
  for (const char* fault : {"throws", "dies"}) {
    const ProcessResult r =
        shell(fmt::format("timeout 30 mpiexec --allow-run-as-root --oversubscribe -n 3 {} 3 {}",
                          DUNEFIELD_RANK_PROGRAM, fault));
    EXPECT_NE(r.exit_code, 0) << fault;
    EXPECT_NE(r.exit_code, 124) << fault << ": the others waited for ever";
    if (fault == std::string("throws")) {
      EXPECT_NE(r.err.find("rank 1: this rank alone fails"), std::string::npos) << r.err;
    }
  }
}
#endif

INSTANTIATE_TEST_SUITE_P(OneTwoFour, Ranks, testing::Values(1, 2, 4));

TEST(Threads, OneRanksFailureEndsTheOthers) {
  EXPECT_THROW(run_on_threads(4,
                              [](Communicator& comm) {
                                if (comm.rank() == 2) throw std::runtime_error("lost");
                                comm.sum(1.0);
                              }),
               std::runtime_error);
}

TEST(ParallelFor, VisitsEachIndexOnce) {
  std::vector<std::atomic<int>> visits(10001);
  parallel_for(
      visits.size(), [&](std::size_t i) { ++visits[i]; }, 100);
  for (const auto& v : visits) ASSERT_EQ(v, 1);
}

TEST(ParallelFor, HandsOnWhatTheWorkThrows) {
  EXPECT_THROW(parallel_for(
                   5000,
                   [](std::size_t i) {
                     if (i == 4321) throw std::runtime_error("no");
                   },
                   100),
               std::runtime_error);
}

}  // namespace
}  // namespace dunefield::test
