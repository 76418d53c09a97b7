// Wall layers: columns of thin cells on the vehicle, made room for by moving the core mesh away from the wall.
#pragma once

#include <string>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct LayerOptions {
  int count = 0;                    ///< layers; 0: none
  double first_height = 0;          ///< full height of the cell at the wall, m
  double growth = 1.3;              ///< height of a layer over that of the one below
  std::vector<std::string> without; ///< parts that get none

  /// Height from the wall to the top of the first `n` layers.
  double thickness(int n) const;
};

/// What the layers of one part came to.
struct PartLayers {
  std::string part;
  double area = 0;            ///< m2
  double full_share = 0;      ///< share of the area with all layers
  double thick_share = 0;     ///< share of the area with at least 80 % of the total thickness
  double mean_first_height = 0;
};

struct LayerReport {
  int cells = 0;              ///< in layers
  int rounds = 0;             ///< of making thinner where cells were bad
  std::vector<PartLayers> parts;
  double full_share() const;
  double thick_share() const;
};

/// Replaces each wall face of the vehicle by a column of cells. Where there is no room the layers get thinner, then fewer, in
/// steps of one from face to face; they end cleanly at road, centre plane and parts without. Derived arrays are not filled.
LayerReport grow_layers(VolumeMesh& mesh, const LayerOptions& options, const Progress& progress = {});

}  // namespace dunefield
