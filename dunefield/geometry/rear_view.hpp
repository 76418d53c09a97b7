// How a vehicle ends: what is seen of it from behind, by how steep it is to the stream.
#pragma once

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Shares of the area that is seen from behind (projected along x), above the road.
struct RearView {
  double blunt = 0;    ///< at 60 degrees to the stream, or more
  double slanted = 0;  ///< faces upward, by 20 to 32 degrees, in the rear half
  double tapered = 0;  ///< by 6 to 20 degrees, whichever way it faces, in the rear half
  double slant = 0;    ///< mean angle of what is slanted, rad
};

/// @param vehicle placed: x rearward, road at z = 0; the sense of its facets does not matter
RearView rear_view(const Surface& vehicle, int points_across = 240);

}  // namespace dunefield
