// Mends the few bad cells a mesh is left with: a cell too flat or too small for its neighbours is
// merged with one of them.
#pragma once

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Merges cells until no face is beyond the limits of `MeshQuality::good` and no sliver with few
/// faces stands beside a far larger cell, or nothing helps any more. Whatever is merged stays
/// closed, and every face pyramid positive. Points and walls stay as they are. Derived arrays must
/// be filled, and are kept up.
/// @return cells that vanished
int merge_bad_cells(VolumeMesh& mesh);

/// Cosine of the angle between a wall face and the way from its cell's centre that is tolerated:
/// the way counts along the normal alone.
constexpr double least_wall_cosine = 0.12;

/// How far a face is from the limits: over 1 is beyond them. Derived arrays must be filled.
double face_badness(const VolumeMesh& mesh, int face, double wall_cosine = least_wall_cosine);

}  // namespace dunefield
