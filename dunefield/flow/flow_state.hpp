// The fields of a case on one rank, shared by the stages of an iteration.
#pragma once

#include <vector>

#include <dunefield/flow/conditions.hpp>
#include <dunefield/flow/flow_mesh.hpp>
#include <dunefield/flow/gradients.hpp>
#include <dunefield/flow/stage_clock.hpp>
#include <dunefield/flow/wall_law.hpp>

namespace dunefield {

/// Force of a wall face on the vehicle, already in newtons.
struct WallLoad {
  Vec3 pressure;  ///< from p, without any reference taken off
  Vec3 friction;
  double pressure_at = 0;  ///< p at the face centre, Pa
  double y_plus = 0;       ///< at the cell centre
};

struct FlowState {
  /// @throw InputError when conditions and patches differ in number, or the air is no air
  FlowState(const FlowMesh& m, const FlowCase& c, Communicator& comm);

  const FlowMesh& mesh;
  const FlowCase& flow_case;
  Communicator& comm;
  Halo halo;
  Gradients gradients;
  StageClock clock;
  wall_law::Profile wall_profile;  ///< of the turbulence model

  std::vector<Vec3> u;       ///< velocity, m/s
  std::vector<double> p;     ///< pressure over density, m2/s2
  std::vector<double> flux;  ///< volume flux per interior face, m3/s
  std::vector<double> boundary_flux;
  std::vector<double> k, omega;  ///< m2/s2, 1/s; for k-epsilon models `omega` is epsilon, m2/s3
  std::vector<double> nu_tilde;  ///< quantity of the Spalart-Allmaras model, m2/s; empty for others
  std::vector<double> nu_t;      ///< eddy viscosity, m2/s

  std::vector<Mat3> grad_u;
  std::vector<Vec3> grad_p;  ///< least squares: for reconstruction to faces
  /// Gauss sum of the face pressures over the volume: the momentum's pressure term
  std::vector<Vec3> gauss_p;
  std::vector<Vec3> boundary_velocity;
  /// Wall faces: share of the tangential slip that the velocity gradient sees. Under a wall law the
  /// slope from the wall's own velocity to the cell would be many times the profile's slope in the
  /// cell.
  std::vector<double> wall_slope;
  std::vector<double> wall_scale;  ///< wall faces: velocity scale of the wall law, m/s
  std::vector<double> boundary_pressure;

  /// Wall faces: factor of the relative tangential velocity in the shear stress over density, m/s.
  std::vector<double> wall_factor;
  std::vector<Vec3> wall_slip;  ///< relative tangential velocity at the foot of the normal, m/s
  /// Shear over viscosity that a turning wall adds through the transposed velocity gradient, 1/s: n
  /// x spin. Without it air that turns with the wall as a solid body would feel friction.
  Vec3 wall_turning(const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) const {
    return cross(b.normal, bc.spin);
  }

  void for_boundary(const auto& visit) const {
    for (std::size_t patch = 0; patch < mesh.patches.size(); ++patch)
      for (int i = mesh.patches[patch].first;
           i < mesh.patches[patch].first + mesh.patches[patch].count; ++i)
        visit(static_cast<std::size_t>(i), mesh.boundary[static_cast<std::size_t>(i)],
              flow_case.conditions[patch]);
  }

  /// Velocity at stream and wall faces; the normal part of a wall's own motion is removed, its flux
  /// is exactly zero.
  void set_boundary_velocity();
  void update_velocity_gradient();
  /// Face pressures, their Gauss sum and the least-squares gradient, from p with current halo.
  void update_pressure_gradients();
  void update_wall_shear();

  std::vector<WallLoad> wall_loads() const;
};

}  // namespace dunefield
