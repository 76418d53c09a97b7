// One wall face for each cell: the dual gives one polygon for each crossed edge, two or three on a
// cell at an oblique wall.
#pragma once

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Unites adjacent wall faces of one cell and one part where their normals agree, the outline stays
/// a simple loop and the cell stays sound, but not over sharp edges. Derived arrays are not filled.
/// @param on_sharp_edge per point @return how many faces vanished
int unite_wall_faces(VolumeMesh& mesh, const std::vector<char>& on_sharp_edge);

}  // namespace dunefield
