// What goes through a boundary face: the one place where stresses at boundaries are worked out, for
// the momentum equation, the balance and the momentum of the stream.
#pragma once

#include <dunefield/flow/flow_state.hpp>

namespace dunefield {

/// Over density, of one boundary face.
struct BoundaryMomentum {
  Vec3 stress;   ///< viscous force on the air in the cell, m4/s2
  Vec3 carried;  ///< velocity that goes with the flux, m/s
};

inline BoundaryMomentum boundary_momentum(const FlowState& s, std::size_t i,
                                          const FlowMesh::BoundaryFace& b,
                                          const BoundaryCondition& bc) {
  const auto c = at(b.cell);
  const double nu = s.fast() ? s.viscosity[c] : s.flow_case.air.kinematic_viscosity,
               mu = s.fast() ? s.whole_viscosity[c] : nu + s.nu_t[c];
  switch (bc.kind) {
    case ConditionKind::stream: {
      const Vec3 d = b.centre - s.mesh.centre[c], du = s.boundary_velocity[i] - s.u[c];
      const Vec3 aside = d - b.normal * b.height;
      return {(du - s.grad_u[c] * aside) * (mu * b.size / b.height) +
                  transposed_times(s.grad_u[c], b.area) * mu,
              s.boundary_velocity[i]};
    }
    case ConditionKind::outflow:
      // The normal derivative vanishes, the transposed part of the stress does not. Air that comes
      // back brings no tangential velocity.
      return {transposed_times(s.grad_u[c], b.area) * mu,
              s.boundary_flux[i] < 0 ? b.normal * dot(b.normal, s.u[c]) : s.u[c]};
    case ConditionKind::opening:
      // What is taken in goes with the velocity that it has come with.
      return {{}, s.boundary_flux[i] < 0 ? s.boundary_velocity[i] : s.u[c]};
    case ConditionKind::slip:
      return {b.normal * -(dot(b.normal, s.u[c]) * 2 * mu * b.size / b.height), s.u[c]};
    case ConditionKind::wall:
      return {s.wall_turning(b, bc) * (nu * b.size) - s.wall_slip[i] * (b.size * s.wall_factor[i]),
              s.u[c]};
  }
  return {};
}

}  // namespace dunefield
