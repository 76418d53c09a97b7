// How many threads a loop takes.
#include <gtest/gtest.h>

#include <mutex>
#include <set>
#include <thread>

#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield::test {
namespace {

std::size_t threads_of_a_loop() {
  std::mutex mutex;
  std::set<std::thread::id> seen;
  parallel_for(
      1 << 14,
      [&](std::size_t) {
        std::lock_guard lock(mutex);
        seen.insert(std::this_thread::get_id());
      },
      16);
  return seen.size();
}

TEST(ThreadBudget, HoldsWhileItLivesAndNests) {
  const int all = threads_allowed();
  {
    const ThreadBudget one(1);
    EXPECT_EQ(threads_allowed(), 1);
    EXPECT_EQ(threads_of_a_loop(), 1u);
    {
      const ThreadBudget two(2);
      EXPECT_EQ(threads_allowed(), 2);
      EXPECT_LE(threads_of_a_loop(), 2u);
    }
    EXPECT_EQ(threads_allowed(), 1);
  }
  EXPECT_EQ(threads_allowed(), all);
}

TEST(ThreadBudget, HoldsForThreadsThatAreStartedWithinIt) {
  const ThreadBudget one(1);
  int other = 0;
  std::thread([&] { other = threads_allowed(); }).join();
  EXPECT_EQ(other, 1);
}

}  // namespace
}  // namespace dunefield::test
