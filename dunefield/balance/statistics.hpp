// Means of fluctuating histories, with a confidence interval that allows for autocorrelation.
#pragma once

#include <span>

namespace dunefield {

struct WindowMean {
  double mean = 0, least = 0, most = 0;
  double half_interval = 0;  ///< of the 95 % confidence interval of the mean, by batch means (Conway 1963)
  int count = 0;
};

WindowMean window_mean(std::span<const double> values);

}  // namespace dunefield
