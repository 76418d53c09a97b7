// A rank's share of the mesh, with everything the operators need worked out once.
#pragma once

#include <string>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/linear/graph.hpp>
#include <dunefield/mesh/volume_mesh.hpp>
#include <dunefield/parallel/communicator.hpp>

namespace dunefield {

struct BoundaryCondition;

/// Own cells come first, halo cells behind. Interior faces touch at least one own cell; the two
/// copies of a face between ranks are computed on both from the same values.
struct FlowMesh {
  int own = 0, cells = 0;
  int first_global = 0;  ///< number of own cell 0 in the whole mesh
  std::vector<Vec3> centre;
  std::vector<double> volume;
  std::vector<double> side2;          ///< volume to the power 2/3, m2
  std::vector<double> wall_distance;  ///< m, to the nearest wall face; huge without walls

  // Interior faces. Each pass over them reads what it needs and no more: the limit is memory.
  std::vector<int> below, above;
  std::vector<Vec3> area;  ///< S, from below to above
  /// Face centre minus the interpolation point on the line of centres; at most as long as that line
  std::vector<Vec3> skew;
  std::vector<float> weight;  ///< of the cell below in linear interpolation
  std::vector<float> g;       ///< |S|^2 / (S . d)
  std::vector<char> lateral;  ///< parts two thin cells sideways
  std::size_t faces() const { return below.size(); }
  /// d, from the centre of the cell below to that above.
  Vec3 between(std::size_t f) const { return centre[at(above[f])] - centre[at(below[f])]; }
  struct WarpedFace {
    int face;
    Mat3 warp;  ///< see VolumeMesh::face_warp
  };
  /// Interior faces so warped that pressure at their centre does not stand for them; between thin
  /// layers that would be felt.
  std::vector<WarpedFace> warped;
  /// Direction across a thin cell, zero for others.
  std::vector<Vec3> across;
  /// A way from a cell's centre over a face. Along a curved wall the cells of a layer lie at the
  /// same height, but not on a straight line: the neighbour is below the tangent plane by the
  /// sagitta, which though small against the cell's width is not against its height, and the steep
  /// gradient there would multiply it. So from thin cell to thin cell ways lose their part across.
  Vec3 along(std::size_t f, std::size_t cell, const Vec3& way) const {
    return lateral[f] ? way - across[cell] * dot(across[cell], way) : way;
  }

  struct BoundaryFace {
    Vec3 area, centre;
    Vec3 normal;
    Mat3 warp;      ///< see VolumeMesh::face_warp
    double size;    ///< |area|
    double height;  ///< normal distance of the cell centre, m
    int cell;
    int global = 0;  ///< face number in the whole mesh
  };
  std::vector<BoundaryFace> boundary_faces;
  /// All boundaries of the whole mesh, with their ranges of `boundary_faces`; possibly empty here
  std::vector<Boundary> boundaries;

  Graph graph;
  FaceSlots slots;
  HaloPlan halo_plan;
};

/// Shares the mesh out over the ranks in its cell order (a space-filling curve). Only rank 0 needs
/// `mesh` and `wall_distance`.
FlowMesh distribute(const VolumeMesh* mesh, const std::vector<double>* wall_distance,
                    Communicator& comm);

/// Distance of each cell centre to the nearest face of the boundaries flagged as walls.
std::vector<double> wall_distances(const VolumeMesh& mesh,
                                   const std::vector<bool>& boundary_is_wall);
/// The same, walls being what these conditions, one for each boundary, make walls.
std::vector<double> wall_distances(const VolumeMesh& mesh,
                                   const std::vector<BoundaryCondition>& conditions);

/// Own values of all ranks in the order of the whole mesh, on rank 0 (empty elsewhere).
template <class T>
std::vector<T> gather_cells(const FlowMesh& mesh, const std::vector<T>& field, Communicator& comm) {
  return comm.gather(std::vector<T>(field.begin(), field.begin() + mesh.own));
}

/// The reverse: rank 0's values of the whole mesh to the ranks' own cells; halo values are left for
/// a refresh.
template <class T>
std::vector<T> scatter_cells(const FlowMesh& mesh, const std::vector<T>& all, Communicator& comm) {
  const int mine_of_all[2] = {mesh.first_global, mesh.own};
  const auto ranges = comm.all_gather(std::vector<int>(mine_of_all, mine_of_all + 2));
  std::vector<T> mine;
  if (comm.rank() == 0) {
    for (int r = comm.size() - 1; r >= 0; --r) {
      const auto& range = ranges[at(r)];
      mine.assign(all.begin() + range[0], all.begin() + range[0] + range[1]);
      if (r > 0) comm.send_vector(r, mine);
    }
  } else {
    mine = comm.receive_vector<T>(0);
  }
  mine.resize(static_cast<std::size_t>(mesh.cells));
  return mine;
}

}  // namespace dunefield
