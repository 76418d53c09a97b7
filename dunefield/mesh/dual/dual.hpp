// The octree's dual: a vertex in the air becomes a cell, a leaf a mesh point, an edge a face.
#pragma once

#include <cstdint>
#include <string>
#include <tuple>
#include <vector>

#include <dunefield/mesh/dual/dual_grid.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// What the fitting needs to know of a mesh point.
struct DualPoint {
  int leaf = -1;
  std::uint8_t clamped = 0;  ///< axes along which the point is held on the tunnel's boundary
  int first_crossing = 0, crossings = 0;
};

struct AirPocket {
  Vec3 place;
  double volume = 0;
  int cells = 0;
};

/// The dual mesh before its wall points are fitted, with what the fitting needs.
struct DualMesh {
  VolumeMesh mesh;  ///< derived arrays not filled
  std::vector<DualPoint> point_info;
  std::vector<SolidField::Crossing> crossings;  ///< grouped by point
  std::vector<int> cell_vertex;                 ///< of the grid, for each cell
  /// The vertex hangs in the middle of a leaf's side and all its leaves are crossed
  std::vector<char> cell_hanging_crossed;
  std::vector<AirPocket> pockets;  ///< air not reached from the inflow, taken as solid
};

/// Where the surface cuts an edge, seen from an end in the air; one with a thin wall is cut twice.
struct CutEdge {
  std::uint64_t air, end;  ///< keys of its vertices
  int longest;             ///< edge at them, which tells how thick a rod is taken
  SolidField::Crossing crossing;

  bool operator<(const CutEdge& b) const {
    return std::tie(air, end, longest) < std::tie(b.air, b.end, b.longest);
  }
};

/// @param declared_solid keys of vertices to take as solid whatever the field says
/// @param half names the lower y side "centre plane"
/// @param known cut edges of the build before, of which most stay; those of this one on return
/// @throw MeshError when the inflow is not in the air
DualMesh build_dual(const Octree& octree, const SolidField& solid, const DualGrid& grid,
                    const std::vector<std::string>& part_names, bool half,
                    const std::vector<std::uint64_t>& declared_solid, std::vector<CutEdge>& known);

}  // namespace dunefield
