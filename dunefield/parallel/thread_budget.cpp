#include <dunefield/parallel/thread_budget.hpp>

#include <algorithm>
#include <atomic>
#include <thread>

namespace dunefield {
namespace {

// Of the process: ranks and helpers that it starts work within it, too.
std::atomic<int> budget = 0;  // 0: all cores

}  // namespace

ThreadBudget::ThreadBudget(int threads) : before_(budget.exchange(std::max(0, threads))) {}
ThreadBudget::~ThreadBudget() { budget = before_; }

int threads_allowed() {
  const int cores = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  const int allowed = budget;
  return allowed > 0 ? allowed : cores;
}

}  // namespace dunefield
