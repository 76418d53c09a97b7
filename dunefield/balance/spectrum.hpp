// What frequencies a series in time is made of.
#pragma once

#include <span>
#include <vector>

namespace dunefield {

struct Spectrum {
  std::vector<double> frequency;  ///< Hz, from the first above zero to half the sampling rate
  std::vector<double> density;    ///< square of the values per Hz; its integral is the variance
  int pieces = 0;                 ///< that were averaged: the more, the less chance is in it

  /// Frequency at which the density is largest, by a parabola through the values around it.
  double peak() const;
};

/// Means over overlapping pieces under Hann windows (Welch 1967).
/// @param step between values, s
/// @param pieces at least that many, each overlapping half of the next; fewer for short series
/// @throw InputError for fewer than 16 values, or a step that is not above zero
Spectrum spectrum_of(std::span<const double> values, double step, int pieces = 4);

}  // namespace dunefield
