// One run: a meshed variant at a speed, iterated until its means are known.
#pragma once

#include <filesystem>
#include <functional>
#include <vector>

#include <dunefield/balance/balance.hpp>
#include <dunefield/base/progress.hpp>
#include <dunefield/campaign/convergence.hpp>
#include <dunefield/campaign/vehicle_setup.hpp>

namespace dunefield {

/// Where the ranks come from: threads of this process, or a communicator of MPI processes.
struct Ranks {
  int threads = 0;                    ///< 0: one for each core
  Communicator* processes = nullptr;  ///< if set, used instead of threads

  bool is_root() const { return !processes || processes->rank() == 0; }
  int count() const;
  void run(const std::function<void(Communicator&)>& work) const;
};

/// What a run leaves, on the root rank.
struct RunResult {
  RunStatus status = RunStatus::not_converged;
  Convergence convergence;  ///< means, and why the status is what it is
  std::vector<HistoryRow> history;
  Balance balance;  ///< of the last state
  Coefficients last;
  ReferenceValues reference;
  double mass_balance = 0;    ///< net flux over inflow
  double backflow_share = 0;  ///< of the outflow's area
  double wake_plane = 0;      ///< x of a section behind the vehicle, m
  /// Of the last state, N: what the stream has lost of its momentum until there
  double wake_drag = 0;
  double seconds = 0;
  int ranks = 1;
  FlowFields fields;
  std::vector<WallLoad> loads;  ///< per boundary face of the mesh
  double courant = 0;           ///< really used: smaller than asked for after a back-off
  int first_order_cells = 0;    ///< that had to go on with first order
  Findings findings;            ///< back-offs, backflow
};

/// Where and how often a run's state is saved, and what it may go on from.
struct Saving {
  std::filesystem::path file;     ///< empty: not at all
  std::filesystem::path earlier;  ///< a state to go on from when there is none in `file`
  double every_seconds = 300;
  std::string setup;  ///< two runs with the same text differ in their limits at most
};

struct RunObserver {
  /// Root rank, after each iteration: the row, and the seconds left until the iteration limit.
  std::function<void(const HistoryRow&, double)> row;
  /// Root rank, after each iteration: true if somebody wants to see the present state, which `look`
  /// then gets.
  std::function<bool()> look_wanted;
  std::function<void(const RunResult&)> look;
  Progress progress;
};

/// Fields to start from, asked for on the root when there is no saved state to go on from; nothing:
/// the stream.
using Start = std::function<std::optional<FlowFields>(Findings&)>;

/// Collective over the ranks; `mesh` is needed on the root only. To save memory its faces' areas
/// and centres are set aside in the meantime, and worked out again. A saved state of the same run
/// is gone on from, to the last bit if the number of ranks is the same, else from its fields. A run
/// that diverges goes on from its last good state, then from the start, with a smaller pseudo-time
/// step. @throw FlowError, Cancelled (before the first iteration), OutputError. A damaged state is
/// warned of, and the one before it is used
RunResult run_case(const CampaignSetup& setup, const PlacedVariant& variant, double speed,
                   VolumeMesh* mesh, const Start& start, const Ranks& ranks,
                   const RunObserver& observer, const Saving& saving = {});

}  // namespace dunefield
