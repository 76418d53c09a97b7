// Vortices as lines through their middles, by predictor and corrector along the vorticity (Banks
// and Singer 1994), each with its circulation.
#pragma once

#include <dunefield/look/flow_view.hpp>
#include <dunefield/look/scene.hpp>

namespace dunefield {

struct VortexCore {
  std::vector<Vec3> points;
  double circulation =
      0;              ///< m2/s, about the way of the points, which is downstream; right-hand rule
  double radius = 0;  ///< m, of the circle that it was measured on
};

struct VortexOptions {
  /// Of a vortex's circulation over speed and the square root of the frontal area; weaker ones are
  /// left out
  double weakest = 0.02;
  double shortest = 0.08;  ///< of the vehicle's length
  int most = 24;           ///< the strongest ones
};

/// The strongest first; of a half model both sides.
std::vector<VortexCore> vortex_cores(const FlowView& view, const VortexOptions& options = {});

/// As lines that have their circulation as value.
Bundle core_lines(const std::vector<VortexCore>& cores);

}  // namespace dunefield
