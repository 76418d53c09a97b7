// The gate that a mesh from a file passes before anything uses it.
#pragma once

#include <string>

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// What is wrong with points, faces, cells and boundaries of a mesh (derived arrays are not looked
/// at): sizes that do not fit, offsets that fall, indices out of range, numbers that are none,
/// cells with fewer than four faces. Takes a small part of `VolumeMesh::derive`.
/// @return one clause for a person; empty: nothing
std::string fault_of(const VolumeMesh& mesh);

}  // namespace dunefield
