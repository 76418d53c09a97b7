// Dents in the wall that are too small for a cell of their own.
#pragma once

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct FilledDents {
  int cells = 0;
  double volume = 0;  ///< of all of them, m3
  Vec3 place;         ///< of the largest
};

/// A cell with bad faces on a wall of the vehicle, tiny beside a neighbour or open to one cell
/// only, becomes solid: its faces to other cells are their wall from now on. No air is parted by
/// that. Derived arrays must be filled, and are kept up.
FilledDents fill_dents(VolumeMesh& mesh);

/// Cells that nothing has made sound, those with a volume or a face pyramid that is not positive,
/// become solid. Derived arrays must be filled, and are kept up.
FilledDents fill_unsound_cells(VolumeMesh& mesh);

}  // namespace dunefield
