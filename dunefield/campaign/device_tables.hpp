// [[core]] and [[fan]] of a campaign file.
#pragma once

#include <vector>

#include <dunefield/campaign/table.hpp>
#include <dunefield/flow/air_devices.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {

/// In vehicle axes, at full size. @throw InputError for resistances that are negative, curves that
/// do not rise (cores) or do (fans), fans that blow against the stream
std::vector<AirDevice> read_devices(Table& root);

/// [[opening]]: parts that air passes through. @throw InputError with the key
std::vector<Opening> read_openings(Table& root);

}  // namespace dunefield
