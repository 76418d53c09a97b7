// The walls of a mesh as triangles, for queries.
#pragma once

#include <functional>
#include <vector>

#include <dunefield/geometry/surface.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct WallTriangles {
  Surface surface;           ///< all points of the mesh; facing out of the air
  std::vector<int> face_of;  ///< of each triangle
};

/// @param wanted which boundaries
WallTriangles wall_triangles(const VolumeMesh& mesh,
                             const std::function<bool(const Boundary&)>& wanted);

}  // namespace dunefield
