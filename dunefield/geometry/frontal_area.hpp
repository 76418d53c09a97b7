// Area of the vehicle's shadow on a plane across the stream.
#pragma once

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Projected area along x in m2, overlaps counted once, by filling a fine grid (error about the
/// outline's length times a tenth of a grid step). Below the road (z < 0) nothing counts.
double frontal_area(const Surface& vehicle, int cells_across = 2000);

}  // namespace dunefield
