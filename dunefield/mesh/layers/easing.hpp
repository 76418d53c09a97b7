// Points around bad faces, moved so that these get better.
#pragma once

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Draws points around bad faces back towards places where they were safe, as far as that makes the
/// worst face around them better: for points that were moved onto the surface at the cost of such
/// faces.
/// @param safe a place for each point; those that are there already are left alone. Derived arrays
/// must be filled, and are kept up.
/// @return points that moved
int ease_bad_faces(VolumeMesh& mesh, const std::vector<Vec3>& safe);

/// Moves points in the air around bad faces whichever way makes the worst face around them better,
/// a little at a time. Points on the vehicle stay; those on the road, the centre plane and the
/// other sides stay in their planes. Derived arrays must be filled, and are kept up.
/// @return points that moved
int smooth_bad_faces(VolumeMesh& mesh);

}  // namespace dunefield
