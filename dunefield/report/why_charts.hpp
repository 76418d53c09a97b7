// Why a variant differs: bars under the car's outline and by part. Not part of the public
// interface.
#pragma once

#include <string>

#include <dunefield/campaign/explanation.hpp>

namespace dunefield {

/// The side view of a run's vehicle, and under each tenth of its length the change of drag there, %
/// of the baseline's. SVG for `Page::drawing`.
std::string stretch_chart(const Explanation& explanation, const Record& run,
                          const Record& baseline);

/// The change of drag by part, % of the baseline's: the twelve largest.
std::string part_chart(const Explanation& explanation, const Record& baseline);

}  // namespace dunefield
