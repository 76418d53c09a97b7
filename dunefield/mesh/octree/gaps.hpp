// Gaps so narrow that few cells lie across them: what flows through is not to be trusted.
#pragma once

#include <string>
#include <vector>

#include <dunefield/mesh/octree/solid_field.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct NarrowGap {
  Vec3 place;               ///< at its narrowest
  double width = 0;         ///< there, m
  double cells = 0;         ///< leaves across, there
  double area = 0;          ///< of the vehicle's walls that face each other, m2
  std::string part, other;  ///< between which; the road is "road"
  bool closed = false;      ///< the mesh has no air there
};

/// Gaps between walls that face each other with fewer than `least` leaves between them, the fewest
/// first. Beside a part that stands on the road the wedge to it is none.
/// @param leaf for each point of the mesh the edge of its leaf, m; @param standing parts on the
/// road
std::vector<NarrowGap> narrow_gaps(const VolumeMesh& mesh, const std::vector<double>& leaf,
                                   const std::vector<std::string>& standing, double least = 3);

/// Gaps of the vehicle itself that the mesh has closed: air between two of its walls, less than two
/// leaves wide, where the mesh is solid. The largest first. Samples the surface about once a leaf.
std::vector<NarrowGap> closed_gaps(const VolumeMesh& mesh, const std::vector<double>& leaf,
                                   const Surface& vehicle, const SolidField& solid,
                                   double surface_size);

}  // namespace dunefield
