// How many threads work at once.
#pragma once

namespace dunefield {

/// While it lives, loops that are spread over threads (parallel_for) use no more than these, in
/// all threads of the process. Budgets nest.
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

/// Threads that a loop may use at present, its own included.
int threads_allowed();

}  // namespace dunefield
