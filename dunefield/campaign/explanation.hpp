// Why one run has less or more drag than another: by part, and by stretch of the length.
#pragma once

#include <vector>

#include <dunefield/campaign/comparison.hpp>

namespace dunefield {

/// Drag coefficients of what lies between two stations, from the pressure and friction there.
struct Stretch {
  double from = 0, to = 0;            ///< x, m
  double cd = 0;                      ///< the run's, less the baseline's
  double pressure = 0, friction = 0;  ///< of that
  double baseline = 0;                ///< the baseline's own
};

struct Explanation {
  std::vector<PartDifference> parts;  ///< of the means; the largest first
  /// Tenths of the length of both vehicles together, of the last states; the largest first
  std::vector<Stretch> stretches;
  double last_state = 0;  ///< difference of CD between the last states, which the stretches add to
};

/// @throw InputError when the runs cannot be compared
Explanation explain(const Record& run, const Record& baseline);

}  // namespace dunefield
