// Whether a run's means can be trusted: from the history of its coefficients, residual and momentum
// balance.
#pragma once

#include <algorithm>
#include <cmath>
#include <optional>

#include <dunefield/record/history.hpp>

namespace dunefield {

struct AccuracyWanted {
  double drag = 0.005;  ///< half the 95 % interval of the mean of CD, as a share of it
  double lift = 0.005;  ///< the same of CLF and CLR, absolute
  /// What CD is compared with, and the share of the difference from it that the half interval may
  /// have where that is more: enough for a verdict. Lifts in proportion.
  std::optional<double> compared_drag{};
  double of_difference = 0;
  /// Half the interval that is enough for a mean of CD; never more than a twentieth of it.
  double of_drag(double cd) const {
    constexpr double most = 0.05;
    const double own = drag * std::abs(cd);
    if (!compared_drag) return own;
    const double difference = std::abs(cd - *compared_drag);
    return std::max(own, std::min(of_difference * difference, most * std::abs(cd)));
  }
  /// The same of CLF and CLR, beside such a mean of CD.
  double of_lift(double cd) const {
    return cd == 0 ? lift : lift * of_drag(cd) / (drag * std::abs(cd));
  }
};

/// `steady` is what has come to rest (rest_of), `fluctuating` what swings about means that are
/// known. The window of those begins where cutting more of the start-up off would not make the
/// means more certain (White 1997, marginal standard error), but in the first quarter or the first
/// 150 iterations (50 if warm), and holds the last 150 at least (100 where 2 % of CD are enough),
/// all if there are fewer; those of a recombination are left out. Intervals go by how all behind
/// those 150 (50) swings, where that is more than the window does. What drag and the stream's loss
/// of momentum differ by beyond chance is part of the interval of CD.
/// @param warm the run started from another's result: its residual was low from the start, and has
/// not to fall
Convergence judge(const std::vector<HistoryRow>& history, const ReferenceValues& reference,
                  const AccuracyWanted& accuracy, bool warm = false);

/// Without the rows of recombinations: where one was given up, the flow went on from where it
/// began; where one is not through, its states are not yet those of any flow. All, where there are
/// no others.
std::vector<HistoryRow> plain_rows(const std::vector<HistoryRow>& history);

/// Swings that are all alike make means certain however far they go. Where the stream does not lose
/// the drag in the mean, by so much that the interval of CD would stay too wide for ever, such a
/// swing is the iteration's own, not the flow's.
bool swings_by_itself(const Convergence& judged, const ReferenceValues& reference,
                      const AccuracyWanted& accuracy);

/// Iterations over which a quantity with such a mean is known to a half interval; very many if the
/// window is too short to tell.
double iterations_for(const WindowMean& mean, double half_interval);

}  // namespace dunefield
