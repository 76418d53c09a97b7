// The cells of a section: layers on its walls, and squares cut by their fronts.
#pragma once

#include <vector>

#include <dunefield/mesh/planar/quadtree.hpp>
#include <dunefield/mesh/planar/wall_columns.hpp>

namespace dunefield {

/// Sides of the air besides other cells; parts of the vehicle follow `wall`.
enum class PlanarSide { inflow, outflow, floor, roof, wall };

/// A straight side of cells. Boundaries lie to its right.
struct PlanarEdge {
  int from = 0, to = 0;  ///< points
  int left = -1;         ///< cell
  int right = -1;        ///< cell, or -1 - number of the boundary
};

struct PlanarCells {
  std::vector<Vec3> points;
  std::vector<PlanarEdge> edges;
  int cells = 0;  ///< those in layers first, column by column from the wall outward
  int layer_cells = 0;
  int merged = 0;  ///< cut squares that were too small
};

/// Number of a part's boundary.
inline int boundary_of_part(int part) { return static_cast<int>(PlanarSide::wall) + part; }

/// @throw MeshError where squares and fronts cannot be told apart (another lattice may do)
PlanarCells planar_cells(const std::vector<WallColumns>& walls, const Quadtree& tree);

}  // namespace dunefield
