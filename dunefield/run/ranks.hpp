// Where the ranks of a run come from.
#pragma once

#include <functional>

#include <dunefield/parallel/communicator.hpp>

namespace dunefield {

/// Threads of this process, or a communicator of MPI processes.
struct Ranks {
  int threads = 0;                    ///< 0: one for each core
  Communicator* processes = nullptr;  ///< if set, used instead of threads

  bool is_root() const { return !processes || processes->rank() == 0; }
  int count() const;
  void run(const std::function<void(Communicator&)>& work) const;
  /// The root's answer on all processes.
  bool agreed(bool value) const { return processes ? processes->any(is_root() && value) : value; }
};

}  // namespace dunefield
