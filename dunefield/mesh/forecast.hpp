// What can be told about a mesh before it is made.
#pragma once

#include <vector>

#include <dunefield/mesh/dual/cavities.hpp>
#include <dunefield/mesh/mesh_options.hpp>

namespace dunefield {

/// Cells that the options will give, to about 10 %.
/// @param vehicle placed: road at z = 0, metres. @throw as `build_mesh`
double predict_cells(const Surface& vehicle, const Box& tunnel, const MeshOptions& options);

/// Cavities of the vehicle that `build_mesh` will close, the largest first; with the way in.
/// @throw as `build_mesh`
std::vector<Cavity> find_cavities(const Surface& vehicle, const Box& tunnel,
                                  const MeshOptions& options);

}  // namespace dunefield
