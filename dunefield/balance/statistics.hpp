// Means of fluctuating histories, with a confidence interval that allows for autocorrelation.
#pragma once

#include <span>

namespace dunefield {

struct WindowMean {
  double mean = 0, least = 0, most = 0;
  double half_interval = 0;  ///< of the 95 % confidence interval of the mean
  int count = 0;
  double memory = 0;     ///< values that count as one, 2 T / dt of the integral time
  double deviation = 0;  ///< standard deviation of the values that the interval is of
};

/// Student's t, the point that 97.5 % lie below (Abramowitz and Stegun 1964, 26.7.5); within 1 %
/// from two degrees of freedom on, which need not be whole.
double student_t(double degrees_of_freedom);

/// The variance of the mean is that of the values times their memory over their number; the memory
/// is the sum of the autocorrelations up to the first that is none (initial sequence, Geyer 1992).
/// @param least_memory known from longer histories: short ones show less of it than there is
WindowMean window_mean(std::span<const double> values, double least_memory = 1);

}  // namespace dunefield
