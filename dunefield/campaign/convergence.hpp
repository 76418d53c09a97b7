// Whether a run's means can be trusted: from the history of its coefficients, residual and momentum
// balance.
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
};

enum class RunStatus {
  steady,         ///< the means are known to the accuracy asked for, and the values stay by them
  fluctuating,    ///< the means are known, the values swing about them
  not_converged,  ///< the means are not known to that accuracy
  stopped,        ///< by the user or a time limit; the same command goes on
};
const char* words(RunStatus status);

struct AccuracyWanted {
  double drag = 0.005;  ///< half the 95 % interval of the mean of CD, as a share of it
  double lift = 0.005;  ///< the same of CLF and CLR, absolute
};

struct Convergence {
  RunStatus status = RunStatus::not_converged;
  std::string why;  ///< in plain words, what is missing or how it swings; empty if steady
  WindowMean cd, cl, clf, clr, cy;  ///< over the window
  WindowMean momentum_drag;         ///< N
  int window_from = 0;              ///< first iteration of the window, behind the start-up
  double period = 0;                ///< of a fluctuation, iterations; 0 if none is seen
};

/// The window begins where cutting more of the start-up off would not make the means more certain
/// (White 1997, marginal standard error), and holds the last 60 iterations at least, all if there
/// are fewer.
Convergence judge(const std::vector<HistoryRow>& history, const ReferenceValues& reference,
                  const AccuracyWanted& accuracy);

}  // namespace dunefield
