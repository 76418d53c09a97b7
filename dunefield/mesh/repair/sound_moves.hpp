// How sound a cell is, and moves of points that keep cells so.
#pragma once

#include <vector>

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// A move never makes cells worse than this, unless they were.
inline constexpr double soundness_floor = 0.12;

/// Height of the flattest face pyramid of a cell over the cube root of its volume; negative for an
/// inverted one.
double cell_soundness(const VolumeMesh& mesh, const CellFaces& rows, int cell,
                      double* volume = nullptr);
/// The same for a cell given by its faces, their area vectors outward.
double soundness_of(const PolygonMeasure* faces, int count, double* volume = nullptr);

/// For each of some points the cells that it is a corner of.
std::vector<std::vector<int>> cells_at_points(const VolumeMesh& mesh,
                                              const std::vector<int>& points);

/// Moves all points at once; those at cells that suffer go back, and again, until none does.
/// Derived arrays are neither used nor kept up.
/// @param target of each moving point @return which points have moved
std::vector<char> move_together(VolumeMesh& mesh, const CellFaces& rows,
                                const std::vector<int>& moving, const std::vector<Vec3>& target,
                                const std::vector<std::vector<int>>& cells_around);

}  // namespace dunefield
