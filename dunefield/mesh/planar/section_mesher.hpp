// A mesh of a section: one cell across, in two dimensions layers on the walls and cut squares
// beyond.
#pragma once

#include <dunefield/mesh/mesher.hpp>

namespace dunefield {

/// Meshes what the middle plane of the tunnel cuts of a vehicle, as deep as the tunnel is wide.
/// @param options `surface_size`, `part_size`, `smallest_size`, `edge_size`, `cells_per_turn`,
/// `gap_cells`, `largest_size`, `spread`, `boxes`, `layers`, `road`, `lattice_shift` count
/// @throw as `build_mesh`
MeshResult build_section_mesh(const Surface& vehicle, const Box& tunnel, const MeshOptions& options,
                              const Progress& progress = {});

}  // namespace dunefield
