// What each part and each vehicle adds to the means of a run.
#pragma once

#include <span>
#include <vector>

#include <dunefield/geometry/vehicle.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {

/// The next row of a history by part: CD and CL of each part of the balance, in order, in single
/// precision.
void append_parts(const Balance& balance, const ReferenceValues& reference,
                  std::vector<float>& history);

/// Over the window of the record's means; none where not all of the history is known.
std::vector<PartMean> part_means(const Record& record, std::span<const float> history);
/// Over the same window: the parts of each vehicle together, with the interval of their sum.
std::vector<VehicleMean> vehicle_means(const Record& record,
                                       const std::vector<VehicleGroup>& groups,
                                       std::span<const float> history);

}  // namespace dunefield
