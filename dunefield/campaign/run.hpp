// One run: a meshed variant at a speed, iterated to a settled mean.
#pragma once

#include <functional>
#include <vector>

#include <dunefield/balance/balance.hpp>
#include <dunefield/balance/statistics.hpp>
#include <dunefield/base/progress.hpp>
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

struct HistoryRow {
  int iteration = 0;
  double momentum_residual = 0, mass_imbalance = 0;
  Coefficients c;
  double momentum_drag = 0;  ///< N, from the tunnel's faces
};

enum class RunStatus { settled, iteration_limit, stopped };
const char* words(RunStatus status);

/// What a run leaves, on the root rank.
struct RunResult {
  RunStatus status = RunStatus::iteration_limit;
  std::vector<HistoryRow> history;
  Balance balance;                 ///< of the last state
  Coefficients last;
  WindowMean cd, cl, clf, clr, cy; ///< over the last iterations
  ReferenceValues reference;
  double mass_balance = 0;         ///< net flux over inflow
  WindowMean momentum_drag;        ///< N, from the tunnel's faces, over the same iterations
  double backflow_share = 0;       ///< of the outflow's area
  double seconds = 0;
  int ranks = 1;
  FlowFields fields;
  std::vector<WallLoad> loads;     ///< per boundary face of the mesh
  double courant = 0;              ///< really used: smaller than asked for after a back-off
  Findings findings;               ///< back-offs, backflow
};

struct RunObserver {
  /// Root rank, after each iteration: the row, and the seconds left until the iteration limit.
  std::function<void(const HistoryRow&, double)> row;
  Progress progress;
};

/// Collective over the ranks; `mesh` is needed on the root only. A run that diverges is started again with a smaller pseudo-time
/// step, twice at most. @throw FlowError, Cancelled (before the first iteration)
RunResult run_case(const CampaignSetup& setup, const PlacedVariant& variant, double speed, const VolumeMesh* mesh, const FlowFields* start, const Ranks& ranks,
                   const RunObserver& observer);

}  // namespace dunefield
