// How a drag coefficient is printed.
#pragma once

#include <cmath>

namespace dunefield {

/// Four decimals; five where it is as small as a profile's.
inline int drag_decimals(double cd) { return std::abs(cd) < 0.05 ? 5 : 4; }

}  // namespace dunefield
