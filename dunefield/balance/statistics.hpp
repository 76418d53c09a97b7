// Means of fluctuating histories, with a confidence interval that allows for autocorrelation.
#pragma once

#include <span>

namespace dunefield {

struct WindowMean {
  double mean = 0, least = 0, most = 0;
  /// Of the 95 % confidence interval of the mean, by batch means (Conway 1963): the widest of those
  /// by 5, 6 and 8 batches
  double half_interval = 0;
  int count = 0;
};

/// @param period of a swing, if one is known: batches then last whole periods where they can, since
/// parts of one would pass for scatter
WindowMean window_mean(std::span<const double> values, double period = 0);

}  // namespace dunefield
