// One run: a set-up and its mesh, iterated until its means are known.
#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <optional>

#include <dunefield/base/progress.hpp>
#include <dunefield/record/record.hpp>
#include <dunefield/run/ranks.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {

struct RunOptions {
  int threads = 0;                    ///< ranks as threads; 0: one for each core
  Communicator* processes = nullptr;  ///< ranks as MPI processes, instead of threads
  /// Where the state is saved, and what the run goes on from if it is there; empty: nowhere
  std::filesystem::path state{};
  std::filesystem::path earlier_state{};  ///< to go on from when there is none in `state`
  double save_every = 300;                ///< s
  /// Fields to start from, asked for on the root when there is no saved state to go on from;
  /// nothing: the stream
  std::function<std::optional<Fields>(Findings&)> start = [](Findings&) {
    return std::optional<Fields>();
  };
  /// A saved state of the same mesh with other settings, or of another number of ranks, gives the
  /// start
  bool start_from_state = true;
  Progress progress{};

  Ranks ranks() const { return {threads, processes}; }
};

/// Told on the root while a run goes on; what is of no interest stays as it is.
class RunWatcher {
 public:
  virtual ~RunWatcher() = default;
  /// After each iteration, with the seconds left until the iteration limit.
  virtual void iterated(const HistoryRow&, double seconds_left) { (void)seconds_left; }
  /// After each iteration: true if somebody wants to see the present state, which `look` then gets.
  virtual bool wants_look() { return false; }
  virtual void look(const Record&) {}
};

/// Runs a case. Collective over MPI ranks; mesh and result are the root's. A saved state of the
/// same run is gone on from, to the last bit if the number of ranks is the same. A run that
/// diverges goes on from its last good state, then from the start, with a smaller pseudo-time step.
/// A damaged state is warned of, and the one before it is used.
/// @param mesh that of `build_mesh(setup)`; on other ranks than the root it may be none
/// @param setup checked (RunSetup::check)
/// @throw FlowError, OutputError, Cancelled (before the first iteration)
Record run(const RunSetup& setup, std::shared_ptr<const MeshResult> mesh, const RunOptions& options,
           RunWatcher& watcher);
/// The same with nobody watching.
Record run(const RunSetup& setup, MeshResult mesh, const RunOptions& options = {});

/// The fields of a finished run, scaled to another speed and brought over to another mesh. Nothing
/// if they cannot be had, with the reason among the findings. @throw Cancelled
std::optional<Fields> start_from_record(const std::filesystem::path& folder, const VolumeMesh& mesh,
                                        bool half, double at_speed, Findings& findings,
                                        const Progress& progress);

}  // namespace dunefield
