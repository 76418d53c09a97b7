// What of a vehicle is too small to be in its mesh at all: stray bits, thin rods.
#pragma once

#include <string>
#include <vector>

#include <dunefield/mesh/octree/solid_field.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct LostPiece {
  std::string part;
  double area = 0;  ///< of its surface, m2
  Vec3 place;       ///< of some of it
};

/// By part, the largest area first. A place is lost if it lies in the mesh's air, farther from the
/// next wall than a leaf. Samples the surface some times a leaf, and every piece of it once at
/// least.
/// @param leaf for each point of the mesh the edge of its leaf, m
std::vector<LostPiece> lost_pieces(const VolumeMesh& mesh, const std::vector<double>& leaf,
                                   const Surface& vehicle, const SolidField& solid,
                                   double surface_size);

}  // namespace dunefield
