// Points that were moved onto the surface at the cost of bad faces, drawn back.
#pragma once

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Draws points around bad faces back towards places where they were safe, as far as that makes the worst face around them better.
/// @param safe a place for each point; those that are there already are left alone. Derived arrays must be filled, and are kept up.
/// @return points that moved
int ease_bad_faces(VolumeMesh& mesh, const std::vector<Vec3>& safe);

}  // namespace dunefield
