// Smooth bumps all over a vehicle, and what each changes of a load.
#pragma once

#include <dunefield/sensitivity/shape_gradient.hpp>

namespace dunefield {

/// A smooth bump on the vehicle's walls, and what it does.
struct Bump {
  int part = 0;        ///< boundary
  Vec3 place, normal;  ///< of its top; the normal points into the air
  double area = 0;     ///< integral of its height over the wall, its top being one, m2
  /// Change of the load over density per bump of 1 m outwards, over its area, of each adjoint
  std::vector<double> density;
};

/// Bumps all over the vehicle's walls, about their radius apart. Those that are far from each other
/// are put on together, and what each does to the equations around it is told apart.
/// @param radius m, to where a bump ends; along curved walls as the crow flies
/// @throw Cancelled
std::vector<Bump> bump_gradients(const AdjointFlow& flow, double radius, const Progress& progress);

/// The displacement of the mesh's points by one bump of 1 m, the air around it moving along, m.
std::vector<Vec3> bump_displacement(const AdjointFlow& flow, const Bump& bump, double radius);

/// Mean of the bumps at a place, by their heights there; zero where there are none.
/// @param which adjoint
double density_at(const std::vector<Bump>& bumps, double radius, int part, const Vec3& place,
                  const Vec3& normal, std::size_t which);

}  // namespace dunefield
