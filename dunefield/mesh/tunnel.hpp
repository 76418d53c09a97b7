// The box of air around the vehicle.
#pragma once

#include <dunefield/base/findings.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

/// The longest side of the vehicle's box, which the size of the tunnel and the fineness of recipes
/// refer to: the length of nearly all vehicles, but the width of a wing, the height of a plate
/// across the stream.
double characteristic_length(const Box& vehicle);
/// True for a body alone in the stream: more than half its height above the road, or where there is
/// none.
bool flies(const Box& vehicle);

/// Tunnel size in those lengths, the width and height also from the blockage allowed.
struct TunnelOptions {
  double ahead = 3;         ///< lengths from inflow to nose
  double behind = 7;        ///< lengths from tail to outflow
  double width = 0;         ///< lengths, wall to wall; 0: from `blockage`
  double height = 0;        ///< lengths, road to roof; 0: from `blockage`
  double blockage = 0.012;  ///< frontal area over tunnel section that sets width and height
  bool half = false;        ///< only y >= 0, mirrored at the centre plane
  bool section = false;     ///< a slice of air about y = 0, one cell across: two dimensions
  bool road = true;         ///< of sections: without one as much air below as above
};

/// A section is as deep as that, so that its forces are those of a metre.
constexpr double section_depth = 1;

/// The tunnel box: road at z = 0; for a half model the centre plane at y = 0.
/// @param vehicle bounds of all variants together, so that all get the same box
/// @param frontal_area of the whole vehicle, m2
/// @param length that the options count in, m; 0: that of the bounds
Box tunnel_box(const Box& vehicle, double frontal_area, const TunnelOptions& options,
               double length = 0);

/// @throw InputError when the vehicle does not lie in the tunnel
void check_vehicle_in_tunnel(const Box& vehicle, const Box& tunnel, const TunnelOptions& options);

}  // namespace dunefield
