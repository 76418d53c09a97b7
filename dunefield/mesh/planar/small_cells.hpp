// Cut squares that are too small are merged with a neighbour.
#pragma once

#include <functional>

#include <dunefield/mesh/planar/planar_cells.hpp>

namespace dunefield {

/// Cells outside the layers with less than a share of their square's area become part of the
/// neighbour that they share the longest side with. Edges between merged cells go, cells are
/// numbered again.
/// @param size edge of the square at a place, m
/// @return cells merged
int merge_small_cells(PlanarCells& cells, const std::function<double(const Vec3&)>& size);

/// The corners of each cell, anticlockwise. @throw MeshError for a cell that is not one closed line
std::vector<std::vector<int>> corners_of_cells(const PlanarCells& cells);

}  // namespace dunefield
