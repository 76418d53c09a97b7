// How a mesh is cut into the shares of ranks.
#pragma once

#include <span>
#include <vector>

#include <dunefield/flow/flow_mesh.hpp>

namespace dunefield {

/// What rank 0 sends to a rank: plain arrays.
struct Share {
  std::vector<Vec3> centre, across;
  std::vector<double> volume, wall_distance;
  std::vector<int> below, above;
  std::vector<Vec3> area, skew;
  std::vector<float> weight, g;
  std::vector<char> lateral;
  std::vector<FlowMesh::WarpedFace> warped;
  std::vector<FlowMesh::BoundaryFace> boundary_faces;
  std::vector<int> boundary_counts;
  std::vector<int> neighbour_ranks, send_counts, send_cells, received;
  int own = 0, first_global = 0;
};

/// Cuts a mesh into contiguous ranges of cells that cost the same; every rank has a cell.
class MeshPartition {
 public:
  /// Both must outlive it.
  MeshPartition(const VolumeMesh& mesh, const std::vector<double>& wall_distance, int ranks);
  Share share(int rank) const;

 private:
  void find_faces();
  void find_halo();
  void add_cells(int rank, Share& share) const;
  void add_faces(int rank, Share& share) const;
  void add_boundaries(int rank, Share& share) const;
  void add_neighbours(int rank, Share& share) const;
  int rank_of(int cell) const;
  int ranks() const { return static_cast<int>(first_.size()) - 1; }
  /// The part of a list of cells, ascending, that a rank owns.
  std::span<const int> owned(const std::vector<int>& cells, int rank) const;

  const VolumeMesh& m_;
  const std::vector<double>& wall_distance_;
  std::vector<int> first_;               ///< first cell of each rank, and the number of cells
  std::vector<Vec3> thin_;               ///< direction across thin cells
  std::vector<std::vector<int>> inner_;  ///< per rank: interior faces of its cells, ascending
  std::vector<std::vector<int>> outer_;  ///< per rank: boundary faces of its cells, ascending
  std::vector<std::vector<int>> halo_;   ///< per rank: cells of others that it touches, ascending
};

}  // namespace dunefield
