// How many threads work at once.
#pragma once

namespace dunefield {

/// While it lives, loops that this thread spreads over threads (parallel_for) use no more than
/// these. Budgets nest; a new thread begins with all cores.
class ThreadBudget {
 public:
  /// @param threads 0: one for each core
  explicit ThreadBudget(int threads);
  ~ThreadBudget();
  ThreadBudget(const ThreadBudget&) = delete;
  ThreadBudget& operator=(const ThreadBudget&) = delete;

 private:
  int before_;
};

/// Threads that this thread may use at present, itself included.
int threads_allowed();

}  // namespace dunefield
