// The walls of a mesh as triangles, for queries and pictures.
#pragma once

#include <functional>
#include <vector>

#include <dunefield/geometry/surface.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct WallTriangles {
  Surface surface;           ///< all points of the mesh; a part for each boundary
  std::vector<int> face_of;  ///< of each triangle, the face of the mesh
};

/// Facing out of the air.
/// @param wanted which boundaries
WallTriangles wall_triangles(const VolumeMesh& mesh,
                             const std::function<bool(const Boundary&)>& wanted);

/// The vehicle's walls, facing into the air.
/// @param whole with the mirror image of a half model, whose triangles come from the same faces
WallTriangles vehicle_triangles(const VolumeMesh& mesh, bool whole);

}  // namespace dunefield
