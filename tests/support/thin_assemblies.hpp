// Random assemblies of thin things, as dirty vehicles have them, and how well a mesh keeps them.
#pragma once

#include <string>

#include <dunefield/geometry/surface.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {

/// What a seed makes: a wing of one to four elements (sections 1 to 12 % thick, closed, or two
/// sheets that share no points; arched, swept, twisted), a ragged open skin, louvres of sheets or
/// plates, or an end plate with slots; at a random angle, every other one on stays above a body.
struct ThinAssembly {
  std::string what;
  Surface surface;  ///< placed in air, m
  bool on_body = false;
  double both_sides = 0;  ///< area of its walls towards the air, m2; 0: parts cross
};
ThinAssembly thin_assembly(unsigned seed);

/// Leaves of 20 mm on surfaces, 10 mm at edges and thin places.
MeshOptions thin_mesh_options();
Box thin_tunnel();

struct ThinMeasures {
  double missing = 0;     ///< surface farther than half a leaf from any wall of the mesh, m2
  double too_much = 0;    ///< wall of the mesh farther than half a leaf from the surface, m2
  double through = 0;     ///< surface off its rims that air of the mesh passes, m2
  double area = 0;        ///< of the surface, m2
  double area_ratio = 1;  ///< walls of the mesh over the surface's, where the latter is known
  double glued = 0;       ///< widest gap that the mesh has closed, in smallest leaves
  Vec3 place;             ///< of something that is wrong
};
ThinMeasures measure_thin(const ThinAssembly& assembly, const MeshResult& mesh);

}  // namespace dunefield
