// [[core]] and [[fan]] of a campaign file.
#pragma once

#include <map>
#include <string>
#include <vector>

#include <dunefield/campaign/table.hpp>
#include <dunefield/flow/air_devices.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {

/// In vehicle axes, at full size. @throw InputError for resistances that are negative, curves that
/// do not rise (cores) or do (fans), fans that blow against the stream
/// @param parts filled with the parts that give devices their place, by the devices' names
std::vector<AirDevice> read_devices(Table& root, std::map<std::string, std::string>& parts);

/// The device where a part of the surface is: the box around it, along the device's axis.
/// @param size_scale model over full size, which the surface has and devices not yet
AirDevice at_part(AirDevice device, const Surface& surface, int part, double size_scale);

/// [[opening]]: parts that air passes through. @throw InputError with the key
std::vector<Opening> read_openings(Table& root);

}  // namespace dunefield
