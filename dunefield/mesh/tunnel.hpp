// The box of air around the vehicle.
#pragma once

#include <dunefield/base/findings.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

/// Tunnel size in lengths of the vehicle, the width and height also from the blockage allowed.
struct TunnelOptions {
  double ahead = 3;          ///< vehicle lengths from inflow to nose
  double behind = 7;         ///< vehicle lengths from tail to outflow
  double width = 0;          ///< vehicle lengths, wall to wall; 0: from `blockage`
  double height = 0;         ///< vehicle lengths, road to roof; 0: from `blockage`
  double blockage = 0.012;   ///< frontal area over tunnel section that sets width and height
  bool half = false;         ///< only y >= 0, mirrored at the centre plane
};

/// The tunnel box: road at z = 0; for a half model the centre plane at y = 0.
/// @param vehicle bounds of all variants together, so that all get the same box
/// @param frontal_area of the whole vehicle, m2
Box tunnel_box(const Box& vehicle, double frontal_area, const TunnelOptions& options);

/// @throw InputError when the vehicle does not lie in the tunnel
void check_vehicle_in_tunnel(const Box& vehicle, const Box& tunnel, const TunnelOptions& options);

}  // namespace dunefield
