// Moves the points of crossed leaves onto the vehicle's surface.
#pragma once

#include <dunefield/mesh/dual/dual.hpp>
#include <dunefield/mesh/dual/sharp_lines.hpp>
#include <dunefield/mesh/repair/sound_moves.hpp>

namespace dunefield {

struct FitReport {
  int wall_points = 0;
  int arrived = 0;  ///< at their accurate place
  /// Largest distance of a wall point from its accurate place, in leaf edges
  double worst_gap = 0;
  std::vector<char> on_sharp_edge;  ///< per point of the mesh; empty once its wall faces are united
};

/// First puts each wall point safely inside its leaf, at the mean of its crossings.
void place_wall_points(DualMesh& dual, const Octree& octree);

/// Then moves it to its accurate place (on a smooth surface the projected mean, at edges and
/// corners the point nearest to all crossed planes (Ju, Losasso, Schaefer, Warren 2002), or on a
/// sharp edge near that) as far as the cells around it stay sound.
FitReport fit_wall_points(DualMesh& dual, const Octree& octree, const SolidField& solid,
                          const SharpLines& sharp, const Progress& progress);

}  // namespace dunefield
