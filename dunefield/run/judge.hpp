// Whether a run's means can be trusted: from the history of its coefficients, residual and momentum
// balance.
#pragma once

#include <dunefield/record/history.hpp>

namespace dunefield {

struct AccuracyWanted {
  double drag = 0.005;  ///< half the 95 % interval of the mean of CD, as a share of it
  double lift = 0.005;  ///< the same of CLF and CLR, absolute
};

/// `steady` is what has come to rest (rest_of), `fluctuating` what swings about means that are
/// known. The window of those begins where cutting more of the start-up off would not make the
/// means more certain (White 1997, marginal standard error), and holds the last 150 iterations at
/// least (100 where 2 % of CD are enough), all if there are fewer; those of a recombination are
/// left out.
/// @param warm the run started from another's result: its residual was low from the start, and has
/// not to fall
Convergence judge(const std::vector<HistoryRow>& history, const ReferenceValues& reference,
                  const AccuracyWanted& accuracy, bool warm = false);

/// A clear period makes means certain however far it swings. Where the stream does not lose the
/// drag in the mean, such a swing is the iteration's own, not the flow's.
bool swings_by_itself(const Convergence& judged, const ReferenceValues& reference,
                      const AccuracyWanted& accuracy);

/// Iterations over which a quantity with such a mean is known to a half interval; very many if the
/// window is too short to tell.
double iterations_for(const WindowMean& mean, double half_interval);

}  // namespace dunefield
