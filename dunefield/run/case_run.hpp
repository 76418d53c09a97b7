// A run on all its ranks, over its attempts.
#pragma once

#include <chrono>
#include <memory>
#include <optional>
#include <vector>

#include <dunefield/run/run.hpp>
#include <dunefield/run/saved_state.hpp>

namespace dunefield {

/// Members that only the root has are marked.
class CaseRun {
 public:
  CaseRun(const RunSetup& setup, std::shared_ptr<const MeshResult> mesh, const RunOptions& options,
          RunWatcher& watcher);

  /// @param number from 0: each has a smaller pseudo-time step than the one before
  void attempt(int number);
  /// After a divergence: the history up to where the next attempt begins.
  void cut_history();
  int last_good() const { return good_[0].iteration; }
  void forget_good();

  Record record;                        ///< root
  std::vector<Vec3> first_order_cells;  ///< root: their centres

 private:
  void find_saved();
  FlowMesh shared_out(Communicator& comm) const;
  void begin(Communicator& comm, FlowSolver& solver, int number);
  /// What the root decides after an iteration or a step in time, sent to all ranks at once.
  struct Decision {
    bool stop = false, done = false, save = false, look = false, recombine = false;
  };
  Decision decided(Communicator& comm, Decision d) const;
  void iterate(Communicator& comm, FlowSolver& solver);
  Decision iterate_steady(Communicator& comm, FlowSolver& solver);
  /// Steps in time behind the steady iterations.
  Decision advance(Communicator& comm, FlowSolver& solver);
  /// Iterations until the next moment is found. @return of the last one
  IterationReport step_in_time(FlowSolver& solver) const;
  /// On the root the history's next row.
  void note(const IterationReport& report, const Balance& balance, double time);
  void keep(Communicator& comm, const FlowSolver& solver, const Decision& now, bool due);
  void save(Communicator& comm, const FlowSolver& solver);
  /// The present state into the record.
  void take(Communicator& comm, const FlowSolver& solver);
  void take_probe_history();
  Convergence judged() const;
  Convergence judged_at_the_limit() const;
  bool settled() const;
  /// The flow is developed, and its swings are too large for means
  bool hard_to_settle() const;
  double wake_plane() const;
  double momentum_behind(double x) const;
  SolverState& good(Communicator& comm) { return good_[at(comm.rank())]; }

  const RunSetup& setup_;
  const std::shared_ptr<const MeshResult> mesh_;  ///< root
  const RunOptions& options_;
  const Ranks ranks_;
  RunWatcher& watcher_;
  StateKey key_;                     ///< root
  std::optional<SavedState> saved_;  ///< root; each rank reads its own part of the file
  std::filesystem::path saved_file_;
  std::optional<Fields> start_;  ///< root
  bool goes_on_ = false;         ///< root
  bool warm_ = false;            ///< root: started from another's result
  /// Root: of each part, iteration after iteration (part_means.hpp)
  std::vector<float> part_history_;
  /// Root: what taps and rakes read, step after step (ProbeSeries)
  std::vector<float> probe_history_;
  std::chrono::steady_clock::time_point last_save_{};  ///< root
  bool save_failed_ = false;
  /// Per rank, of those in this process: the last state that was well
  std::vector<SolverState> good_;
};

}  // namespace dunefield
