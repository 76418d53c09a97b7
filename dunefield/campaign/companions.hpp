// Further vehicles in the tunnel: each behind the one before it, or beside it.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/campaign/table.hpp>
#include <dunefield/geometry/vehicle.hpp>

namespace dunefield {

/// A vehicle beside the first.
struct Companion {
  std::string name;
  std::vector<std::filesystem::path> surfaces;
  VehicleOptions placing;
  double spacing = 0;  ///< from the tail of the vehicle before to this one's nose, m at full size
  double aside = 0;    ///< of the vehicle before, to its right, m at full size
};

/// [[vehicle]] tables after the first.
std::vector<Companion> read_companions(std::vector<Table> tables,
                                       const std::filesystem::path& campaign_file);

/// What stands before the name of a companion's parts: "follower: ".
std::string part_prefix(const std::string& companion);

/// Puts companions into the tunnel with a placed vehicle: parts and wheels get their prefix, the
/// vehicle's `group` tells which is whose.
/// @param first what the vehicle itself is called
/// @throw InputError when two overlap, or a part has a companion's prefix already
void join(Vehicle& vehicle, const std::string& first, const std::vector<Companion>& companions,
          const std::string& where);
/// Leaves only the vehicles of these names. @throw InputError for a name that is none's
void keep_only(Vehicle& vehicle, const std::vector<std::string>& names, const std::string& where);

}  // namespace dunefield
