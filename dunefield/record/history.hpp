// What a run tells after each iteration, and what its history came to.
#pragma once

#include <string>
#include <vector>

#include <dunefield/balance/balance.hpp>
#include <dunefield/balance/statistics.hpp>

namespace dunefield {

struct HistoryRow {
  int iteration = 0;
  double momentum_residual = 0, mass_imbalance = 0;
  Coefficients c;
  double momentum_drag = 0;  ///< N, from the tunnel's faces
  double change = 0;         ///< of the flow in ten iterations, as measured last
  bool recombined = false;   ///< a recombination of states was at work
  double time = 0;           ///< s; 0 in the steady part, the last iteration of each step beyond it
};

/// What one part adds to the coefficients, in the mean over the window.
struct PartMean {
  std::string part;
  double cd = 0, cl = 0;
};

/// Means of one of several vehicles, referred to its own frontal area.
struct VehicleMean {
  std::string name;
  double frontal_area = 0;  ///< m2
  WindowMean cd, cl;
};

/// As CSV, with all digits; and back. @throw InputError for what is no history, naming `where`
std::string history_csv(const std::vector<HistoryRow>& history);
std::vector<HistoryRow> history_from_csv(const std::string& text, const std::string& where);

enum class RunStatus {
  steady,         ///< the means are known to the accuracy asked for, and the values stay by them
  fluctuating,    ///< the means are known, the values swing about them
  not_converged,  ///< the means are not known to that accuracy
  stopped,        ///< by the user or a time limit; the same command goes on
};
const char* words(RunStatus status);
/// @throw InputError for words that are no status
RunStatus status_from(const std::string& words, const std::string& where);

/// Whether a run's means can be trusted, and the means.
struct Convergence {
  RunStatus status = RunStatus::not_converged;
  /// In plain words, what is missing or how it swings; empty if steady
  std::string why;
  WindowMean cd, cl, clf, clr, cy;  ///< over the window
  WindowMean momentum_drag;         ///< N
  int window_from = 0;              ///< first iteration of the window, behind the start-up
  double period = 0;                ///< of a fluctuation, iterations; 0 if none is seen

  bool settled() const { return status == RunStatus::steady || status == RunStatus::fluctuating; }
};

}  // namespace dunefield
