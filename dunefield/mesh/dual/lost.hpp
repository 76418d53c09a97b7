// What of a vehicle is not in its mesh: stray bits and thin rods too small for it, places of
// plates.
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

/// Holes that the mesh has in plates and the vehicle has not: air of the mesh between both sides of
/// a plate at most 1.5 leaves of the surface thick, or on a sheet, that leads out of both, with
/// walls of the mesh all around before the plate ends. A plate's rim that the mesh does not reach
/// is none, nor is a sheet's of which less than a leaf is missing. By part, the largest area first.
std::vector<LostPiece> holes_in_plates(const VolumeMesh& mesh, const Surface& vehicle,
                                       const SolidField& solid, double surface_size);

}  // namespace dunefield
