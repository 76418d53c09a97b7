// The octree's dual: a vertex in the air becomes a cell, a leaf a mesh point, an edge a face.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <unordered_set>
#include <vector>

#include <dunefield/mesh/octree.hpp>
#include <dunefield/mesh/solid_field.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// A corner of leaves. Octant o of a vertex is the side with bit i set for the upper side of axis i.
struct DualVertex {
  std::uint64_t key = 0;
  Lattice at{};
  std::array<int, 8> leaf{};  ///< leaf in each octant, clamped into the box
  std::uint8_t outside = 0;   ///< bit 2i: on the lower boundary of axis i; bit 2i + 1: on the upper one
};

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

/// What the field said at the vertices of an octree: it need not be asked again where the leaves around are the same.
struct KnownSigns {
  std::vector<std::uint64_t> key;  ///< ascending
  std::vector<int> smallest;       ///< edge of the smallest leaf around, in lattice units
  std::vector<char> sign;
};

/// The dual mesh before its wall points are fitted, with what the fitting needs.
struct DualMesh {
  VolumeMesh mesh;                             ///< derived arrays not filled
  std::vector<DualPoint> point_info;
  std::vector<SolidField::Crossing> crossings; ///< grouped by point
  std::vector<std::uint64_t> cell_key;         ///< octree vertex of each cell
  std::vector<char> cell_hanging_crossed;      ///< the vertex hangs in the middle of a leaf's side and all its leaves are crossed
  std::vector<AirPocket> pockets;              ///< air not reached from the inflow, taken as solid
};

/// @param declared_solid octree vertices to take as solid whatever the field says
/// @param half names the lower y side "centre plane"
/// @param known signs of an earlier octree over the same lattice; replaced by those of this one
/// @throw MeshError when the inflow is not in the air
DualMesh build_dual(const Octree& octree, const SolidField& solid, const std::vector<std::string>& part_names, bool half,
                    const std::unordered_set<std::uint64_t>& declared_solid, KnownSigns& known, const Progress& progress);

}  // namespace dunefield
