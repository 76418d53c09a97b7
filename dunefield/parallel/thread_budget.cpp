#include <dunefield/parallel/thread_budget.hpp>

#include <algorithm>
#include <thread>

namespace dunefield {
namespace {

thread_local int budget = 0;  // 0: all cores

}  // namespace

ThreadBudget::ThreadBudget(int threads) : before_(budget) { budget = std::max(0, threads); }
ThreadBudget::~ThreadBudget() { budget = before_; }

int threads_allowed() {
  const int cores = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  return budget > 0 ? budget : cores;
}

}  // namespace dunefield
