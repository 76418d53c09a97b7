// Several vehicles in one tunnel: each one's drag beside its drag alone.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include <dunefield/record/record.hpp>

namespace dunefield {

/// A share with half of its 95 % interval.
struct Share {
  double value = 0, half_interval = 0;
};

/// One vehicle of one run.
struct TogetherRow {
  std::string vehicle;
  WindowMean cd, cl;            ///< referred to its own area
  std::optional<double> alone;  ///< CD
  std::optional<Share> share;   ///< CD together over CD alone
};

struct Together {
  std::string variant;
  double speed = 0;
  Settings settings;
  std::vector<TogetherRow> rows;
  double drag_area = 0;               ///< CD*A of all, m2
  std::optional<Share> share_of_sum;  ///< over the sum of those alone
};

/// Runs with more than one vehicle. Alone is a run with that vehicle only at the same speed, and
/// with the same settings but for those of vehicles' places.
std::vector<Together> together(const std::vector<Figures>& runs);

/// Whether a setting says where a vehicle stands: "vehicle.follower.spacing".
bool is_place_of_vehicle(const std::string& key);

}  // namespace dunefield
