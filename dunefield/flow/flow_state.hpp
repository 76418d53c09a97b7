// The fields of a case on one rank, shared by the stages of an iteration.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/conditions.hpp>
#include <dunefield/flow/fields.hpp>
#include <dunefield/flow/flow_mesh.hpp>
#include <dunefield/flow/gradients.hpp>
#include <dunefield/flow/stage_clock.hpp>
#include <dunefield/flow/time_levels.hpp>
#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {

/// Force of a wall face on the vehicle, already in newtons.
struct WallLoad {
  Vec3 pressure;  ///< from p, without any reference taken off
  Vec3 friction;
  double pressure_at = 0;  ///< p at the face centre, Pa
  double y_plus = 0;       ///< at the cell centre
};

struct FlowState : Fields {
  /// @throw InputError when conditions and boundaries differ in number, or the air is no air
  FlowState(const FlowMesh& m, const FlowCase& c, Communicator& comm);

  const FlowMesh& mesh;
  const FlowCase& flow_case;
  Communicator& comm;
  Halo halo;
  Gradients gradients;
  std::optional<AirDevices> devices;  ///< where the case has some
  TimeLevels time;
  /// Share of central differences in what a cell's faces carry, where eddies are resolved; empty:
  /// none
  std::vector<double> central;
  /// Laminar, and with the eddy viscosity, over the stream's density, m2/s: of fast air only
  std::vector<double> viscosity, whole_viscosity;
  StageClock clock;
  wall_law::Profile wall_profile;  ///< of the turbulence model

  std::vector<double> flux;  ///< volume flux per interior face, m3/s
  struct LimitedFace {
    int face;
    double share;
  };
  std::vector<double> limited_share;       ///< per cell
  std::vector<LimitedFace> limited_faces;  ///< interior faces of the cells that are limited
  std::vector<double> boundary_flux;
  /// Own cells: what their local steps of pseudo-time go by, m3/s
  std::vector<double> step_rate;

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
    for (std::size_t boundary = 0; boundary < mesh.boundaries.size(); ++boundary)
      for (int i = mesh.boundaries[boundary].first;
           i < mesh.boundaries[boundary].first + mesh.boundaries[boundary].count; ++i)
        visit(static_cast<std::size_t>(i), mesh.boundary_faces[at(i)],
              flow_case.conditions[boundary]);
  }

  bool fast() const { return flow_case.fast.has_value(); }
  /// Mass over that of the same volume in the stream; 1 but in fast air.
  double weight(std::size_t cell) const { return density.empty() ? 1.0 : density[cell]; }
  /// Kinematic viscosity of the air in a cell, m2/s.
  double kinematic_viscosity(std::size_t cell) const {
    return density.empty() ? flow_case.air.kinematic_viscosity : viscosity[cell] / density[cell];
  }
  /// Of fast air: temperature, density and viscosity of velocity, pressure and enthalpy, halo
  /// included, and what the stream brings at the inflow's own pressure.
  void update_gas();
  /// Total specific enthalpy of the undisturbed stream, m2/s2.
  double stream_enthalpy() const;

  /// Velocity at stream and wall faces; the normal part of a wall's own motion is removed, its flux
  /// is exactly zero.
  void set_boundary_velocity();
  void update_velocity_gradient();
  /// Face pressures, their Gauss sum and the least-squares gradient, from p with current halo.
  void update_pressure_gradients();
  /// Limits these own cells, and no others, with their faces. Collective.
  void limit(std::vector<LimitedCell> cells);
  void update_wall_shear();
  /// Velocity scale of the wall law at a wall face of a turbulent flow for a slip, m/s; and factor
  /// of the slip in the shear stress, as `wall_factor`.
  double wall_scale_at(std::size_t cell, const FlowMesh::BoundaryFace& face,
                       const BoundaryCondition& condition, double slip) const;
  double wall_factor_at(std::size_t cell, const FlowMesh::BoundaryFace& face,
                        const BoundaryCondition& condition, double slip) const;

  /// Per boundary face; those of the present pressures and of the last wall shear
  std::vector<WallLoad> loads;
  double undisturbed_pressure = 0;  ///< Pa, mean at the inflow

  /// This rank's sums of pressure over density times area at the inflow, and of the area.
  std::array<double, 2> inflow_pressure_sums() const;
  /// Loads and undisturbed pressure, from those sums over all ranks.
  void update_loads(const std::array<double, 2>& inflow_sums);
  /// The same with a reduction of its own; collective.
  void update_loads();
};

}  // namespace dunefield
