#include <dunefield/run/ranks.hpp>

#include <dunefield/parallel/thread_budget.hpp>

namespace dunefield {

int Ranks::count() const {
  if (processes) return processes->size();
  return threads > 0 ? threads : threads_allowed();
}

void Ranks::run(const std::function<void(Communicator&)>& work) const {
  if (processes)
    work(*processes);
  else
    run_on_threads(count(), work);
}

}  // namespace dunefield
