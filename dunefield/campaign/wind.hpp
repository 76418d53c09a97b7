// Drag over a year's winds: the mean over all directions of a wind of one speed (SAE J1252; Cooper
// 2003).
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/comparison.hpp>

namespace dunefield {

/// 7 miles an hour: the mean wind beside the road that SAE J1252 asks for.
inline constexpr double usual_wind = 3.1293;  // m/s

struct WindWeights {
  std::vector<double> weights;  ///< of CD at each yaw: their sum with CD is the averaged one
  double largest_yaw = 0;       ///< that the wind gives at this speed, rad
  bool beyond = false;  ///< it is larger than any that was run: CD there is that of the last
};

/// CD is taken as straight in yaw times its size between the angles, so that it is smooth at zero;
/// without negative angles the vehicle is taken as symmetric.
/// @param yaws rad, all different, at least two. @throw InputError
WindWeights wind_weights(const std::vector<double>& yaws, double speed, double wind);

/// A variant's drag averaged over the wind, at a speed.
struct WindAveraged {
  std::string variant;
  double speed = 0;
  Settings settings;  ///< others than yaw
  double cd = 0, half_interval = 0;
  double at_least_yaw = 0;         ///< CD at the smallest angle
  std::optional<Difference> more;  ///< than the baseline
  WindWeights weights;
};
/// None where there are not at least two angles.
std::vector<WindAveraged> wind_averaged(const std::vector<Comparison>& comparisons, double wind);

}  // namespace dunefield
