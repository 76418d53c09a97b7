// How fine a mesh is: a recipe by its name, with what is wanted otherwise.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/geometry/files/step.hpp>
#include <dunefield/mesh/mesh_options.hpp>

namespace dunefield {

/// Wall layers where they are not the recipe's; of heights one at most is given.
struct LayerChoice {
  std::optional<int> count{};
  std::optional<double> growth{};
  std::optional<double> first_height{}, total{};  ///< m
  std::optional<double> total_leaves{};           ///< of all layers, in leaf edges of the place
  std::optional<double> y_plus{};                 ///< of the first cell's centre, at `y_plus_speed`
  std::optional<double> y_plus_speed{};           ///< m/s; none: the run's
  std::vector<std::string> without{};             ///< parts
};

/// All sizes follow from the name and the vehicle's size, unless they are given.
struct Recipe {
  /// sketch (a quarter of a minute, no verdicts), scout (minutes), standard or fine
  std::string name = "scout";
  std::optional<double> surface_size{}, smallest_size{}, edge_size{};  ///< m
  std::optional<double> cells_per_turn{}, gap_cells{}, thin_cells{};
  std::optional<double> target_cells{};       ///< picks the sizes
  std::map<std::string, double> part_size{};  ///< m
  std::vector<RefinedBox> boxes{};            ///< beside the recipe's own
  std::vector<std::string> sheet_parts{};     ///< parts with air on both sides
  /// Cells where a sketch of the flow wants them, instead of in the recipe's own boxes
  bool adapt = false;
  /// Keeps cavities that the air reaches only through narrow openings
  bool open_cavities = false;
  LayerChoice layers{};
  Vec3 lattice_shift;  ///< of the octree, in surface leaves, along x (and y in whole models)
  /// On top of that: which of the positions of the octree that variants are compared on, from 0
  int lattice = 0;
};

/// @throw InputError for a name that is none
Recipe recipe(const std::string& name);

/// How closely the facets of CAD files shall follow their faces: a twentieth of the smallest leaf,
/// and half the turn that a leaf at the surface may make.
CurveTolerance curves_for(const std::string& recipe);

/// Cells of half a model that a recipe picks its sizes for; none where the vehicle's length alone
/// decides.
std::optional<double> cells_of(const std::string& recipe);

/// What the recipe comes to for vehicles of these bounds, by the size of the longest; a wanted y+
/// and a wanted number of cells are left to those who know the flow and the shape.
/// @param section_chord of a section in two dimensions, m; 0: in three
MeshOptions mesh_options(const Recipe& recipe, const std::vector<Box>& vehicles,
                         const std::string& where, double section_chord = 0);

}  // namespace dunefield
