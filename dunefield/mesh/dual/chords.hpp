// The faces on a curved wall are its chords: with their points on the surface they lie inside of it
// where it bulges, and outside of it in hollows.
#pragma once

#include <vector>

#include <dunefield/mesh/dual/sharp_lines.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Moves the points of the vehicle's walls so that their faces lie as much on one side of a curved
/// surface as on the other, as far as the cells there stay sound: the vehicle then has its volume,
/// and its walls are off by about two thirds of what they were at most. Derived arrays are not
/// used, and not kept up.
/// @param leaf for each point of the mesh the edge of its leaf, m; @param sharp points on these
/// edges stay
/// @return points that moved
int balance_chords(VolumeMesh& mesh, const std::vector<double>& leaf, const SharpLines& sharp,
                   const SolidField& solid);

}  // namespace dunefield
