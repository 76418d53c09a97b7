// One wall face for each cell: the dual gives one polygon for each crossed edge, two or three on a cell at an oblique wall.
#pragma once

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Unites adjacent wall faces of one cell and one part where their normals agree, the outline stays a simple loop and the cell
/// stays sound. Derived arrays are not filled. @return how many faces vanished
int unite_wall_faces(VolumeMesh& mesh);

}  // namespace dunefield
