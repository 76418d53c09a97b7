// The points of a mesh with the edges between them, and displacements that are harmonic on it.
#pragma once

#include <array>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Compressed rows: the neighbours of each point, and one over the square of the way there.
struct EdgeGraph {
  std::vector<int> start, neighbour;
  std::vector<double> weight;
};
EdgeGraph edge_graph(const VolumeMesh& mesh);

/// Which components of a point's displacement are given.
using Given = std::array<bool, 3>;

/// Fills in what is not given, so that each point moves as the weighted mean of its neighbours: by
/// conjugate gradients with the diagonal as preconditioner (Hestenes and Stiefel 1952).
/// @throw Cancelled
void make_harmonic(const EdgeGraph& graph, const std::vector<Given>& given,
                   std::vector<Vec3>& displacement, const Progress& progress);

}  // namespace dunefield
