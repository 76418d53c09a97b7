// Wall layers: columns of thin cells on the vehicle, made room for by moving the core mesh away
// from the wall.
#pragma once

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct LayerOptions {
  int count = 0;            ///< layers; 0: none
  double first_height = 0;  ///< full height of the cell at the wall, m
  /// If set: the total thickness in leaf edges of the place, instead of a first height
  double total_leaves = 0;
  /// Height of a layer over that of the one below; up to 1.4 times that before high core cells,
  /// less where there is little room for thin ones
  double growth = 1.3;
  std::vector<std::string> without;  ///< parts that get none

  /// Height from the wall to the top of the first `n` layers, over the height of the first.
  double sum(int n) const { return sum(growth, n); }
  static double sum(double growth, int n);
  /// First height at a place with leaves of this edge, m.
  double first_at(double leaf) const {
    return total_leaves > 0 ? total_leaves * leaf / sum(count) : first_height;
  }
};

/// Why layers are fewer than asked for.
enum class LayersEnd : std::uint8_t {
  sizes,     ///< only cells of another size beside it
  corner,    ///< no direction is seen well by all walls that meet there
  without,   ///< at the border of a part without layers
  gap,       ///< another wall is near
  dent,      ///< their columns run towards each other
  bad_cells  ///< they would make faces beyond the limits
};
/// "another wall is near"
const char* in_words(LayersEnd end);

/// What the layers of one part came to.
struct PartLayers {
  std::string part;
  double area = 0;         ///< m2
  double full_share = 0;   ///< share of the area with all layers
  double thick_share = 0;  ///< share of the area with at least 80 % of the total thickness
  /// Share of the area with a first height within 20 % of the one asked for
  double first_share = 0;
  /// Share of the area where the core cell is 1 / 1.5 to 1 / 0.3 times as high as the last layer
  double step_share = 0;
  double mean_first_height = 0;
};

struct LayerReport {
  int cells = 0;   ///< in layers
  int merged = 0;  ///< cells merged away because they were bad
  int rounds = 0;  ///< of making thinner where cells were bad
  std::vector<PartLayers> parts;
  /// Shares of the wall with fewer layers, by cause, the largest first. Walls that give way with
  /// their neighbours have the neighbours' cause
  std::vector<std::pair<LayersEnd, double>> ends;
  // The same over all parts.
  double full_share() const { return mean(&PartLayers::full_share); }
  double thick_share() const { return mean(&PartLayers::thick_share); }
  double first_share() const { return mean(&PartLayers::first_share); }
  double step_share() const { return mean(&PartLayers::step_share); }
  double mean(double PartLayers::*share) const;
};

/// Replaces each wall face of the vehicle by a column of cells. Where there is no room the layers
/// get thinner, then fewer, in steps whose wedges are not too thin; they end cleanly at road,
/// centre plane and parts without. Derived arrays are not filled.
/// @param leaf for each point of the mesh the edge of the leaf it stands for, m
LayerReport grow_layers(VolumeMesh& mesh, const std::vector<double>& leaf,
                        const LayerOptions& options, const Progress& progress = {});

}  // namespace dunefield
