// The velocity that a flux carries over a face between two cells.
#pragma once

#include <vector>

#include <dunefield/flow/flow_mesh.hpp>

namespace dunefield {

/// Share of central differences in it, the rest goes along the upwind cell's gradient: of third
/// order along even rows of cells, means being meant (van Leer 1985). Wakes are smeared by a third
/// less than without.
constexpr double kappa = 1.0 / 3;

/// @param upward whether the flux goes from the cell below the face to the one above
/// @param u, grad of each cell, m/s and 1/s
/// @param reach of each cell, 0 to 1: the share of what is not first order
inline Vec3 carried_velocity(const FlowMesh& m, std::size_t f, bool upward,
                             const std::vector<Vec3>& u, const std::vector<Mat3>& grad,
                             const std::vector<double>& reach) {
  const auto a = static_cast<std::size_t>(m.below[f]), b = static_cast<std::size_t>(m.above[f]),
             up = upward ? a : b;
  const double far = upward ? 1 - m.weight[f] : -m.weight[f];  // from its centre to the face
  const Vec3 way = m.along(f, up, m.skew[f] + m.between(f) * ((1 - kappa) * far));
  return u[up] + (grad[up] * way + (u[b] - u[a]) * (kappa * far)) * reach[up];
}

}  // namespace dunefield
