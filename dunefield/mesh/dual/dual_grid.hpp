// What the dual of an octree is made of: the corners of its leaves, the edges between them, and
// which of them are solid.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/octree/octree.hpp>
#include <dunefield/mesh/octree/solid_field.hpp>

namespace dunefield {

/// A corner of leaves. Octant o of a vertex is the side with bit i set for the upper side of axis
/// i.
struct DualVertex {
  std::uint64_t key = 0;
  Lattice place{};
  std::array<int, 8> leaf{};  ///< leaf in each octant, clamped into the box
  int smallest = 0;           ///< edge of the smallest of them, in lattice units
  int longest = 0;            ///< of the edges that meet at it, in lattice units
  /// Bit 2i: on the lower boundary of axis i; bit 2i + 1: on the upper one
  std::uint8_t outside = 0;

  bool on_boundary(int axis, bool upper) const { return outside >> (2 * axis + upper) & 1; }
  /// Axes along which an octant lies outside the box.
  int clamped_axes(int octant) const;
  /// What stands for the octant in the mesh: its leaf, or the part of the leaf's boundary that lies
  /// on the box.
  std::int64_t entity(int octant) const {
    return std::int64_t{leaf[at(octant)]} * 8 + clamped_axes(octant);
  }
};

struct DualEdge {
  int from = -1, to = -1;  ///< vertices
  int axis = 0;            ///< along which it runs, upwards
};

struct DualGrid {
  std::vector<DualVertex> vertices;  ///< hanging ones included, keys ascending
  std::vector<DualEdge> edges;       ///< by `from`
  std::vector<char> solid;           ///< per vertex: what the field says there
  /// Per edge: both its ends are in the air, and a wall thinner than the edge stands between them
  std::vector<char> thin_wall;
};

/// Rods thinner than this, m, are taken as this thick, so that none slips between the vertices.
double least_thickness(const Octree& octree, int longest);

/// Where the field is asked for a vertex. Where a lattice plane coincides with a flat side of the
/// vehicle, rounding would decide each vertex by itself; the field is sampled a constant trifle
/// aside instead.
Vec3 sample_point(const Octree& octree, const DualVertex& vertex);

/// The vertex's share of the leaves that it is a corner of, m3.
double volume_at(const Octree& octree, const DualVertex& vertex);

/// Octants on the side `direction` (axis, upper or lower) of a vertex, counter-clockwise seen from
/// that side.
std::array<int, 4> ring_octants(int axis, bool upper);

/// @param before a grid of an earlier octree over the same lattice: where the leaves are the same,
/// the field is not asked again
DualGrid make_dual_grid(const Octree& octree, const SolidField& solid, const DualGrid& before = {});

}  // namespace dunefield
