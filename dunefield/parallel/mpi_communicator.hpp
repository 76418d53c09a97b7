// Ranks as MPI processes, for clusters.
#pragma once

#include <memory>

#include <dunefield/parallel/communicator.hpp>

namespace dunefield {

/// Starts MPI on construction and ends it on destruction; make one, early in `main`.
class MpiSession {
 public:
  MpiSession(int* argc, char*** argv);
  ~MpiSession();
  MpiSession(const MpiSession&) = delete;
  MpiSession& operator=(const MpiSession&) = delete;

  Communicator& world() { return *world_; }
  /// Ends all processes at once; for a rank that cannot go on.
  [[noreturn]] void abort(int exit_code);
  /// True when this process was started by an MPI launcher (looks at the environment only).
  static bool launched();

 private:
  std::unique_ptr<Communicator> world_;
};

}  // namespace dunefield
