// Whether the iteration of a flow has come to rest.
#pragma once

#include <string>
#include <vector>

#include <dunefield/run/judge.hpp>

namespace dunefield {

/// Of CD: in a steady state the stream loses the momentum that the vehicle takes, in a swinging one
/// only in the mean.
inline constexpr double momentum_agreement = 0.001;

/// A history that looks calm is no proof. At rest is a flow whose drag is what the stream loses in
/// momentum, to 0.1 %, whose change in ten iterations has fallen fifty times from that of the
/// developed flow, or stayed under a hundredth of that of the start-up for a hundred iterations,
/// and whose coefficients have moved over the last hundred iterations, in means of ten, and within
/// the last ten, by less than half of the accuracy asked for.
struct Rest {
  std::string doubt;  ///< what speaks against it, in plain words; empty: at rest
  /// Of the last ten iterations, with twice that movement as interval
  WindowMean cd, cl, clf, clr, cy, momentum_drag;
  int from = 0;  ///< first iteration of those
};
/// @param warm as for `judge`
Rest rest_of(const std::vector<HistoryRow>& history, const ReferenceValues& reference,
             const AccuracyWanted& accuracy, bool warm);

}  // namespace dunefield
