// What flows: the air, the conditions on the boundaries, and how the run is done.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include <dunefield/base/members.hpp>
#include <dunefield/base/vec.hpp>
#include <dunefield/flow/air_devices.hpp>
#include <dunefield/flow/fast_air.hpp>
#include <dunefield/flow/turbulence/models.hpp>

namespace dunefield {

enum class ConditionKind {
  stream,  ///< velocity given (inflow)
  /// Pressure given; air that comes back carries the stream's turbulence and no tangential velocity
  outflow,
  /// Air that passes through the vehicle's own face with a given flow, out of the tunnel or into it
  opening,
  slip,  ///< no flow through, no friction; also the mirror of a half model
  wall,  ///< no slip against a surface that may move or turn
};

/// Neither tunnel nor wall: the vehicle takes or gives air there, where its boundary is such.
inline bool passes_air(ConditionKind kind) {
  return kind == ConditionKind::opening || kind == ConditionKind::outflow;
}

struct BoundaryCondition {
  ConditionKind kind = ConditionKind::slip;
  Vec3 velocity;  ///< of the stream, or of the wall, m/s
  Vec3 spin;      ///< of a turning wall, rad/s, about `spin_centre`
  Vec3 spin_centre;
  /// Of an opening: out of the tunnel, m3/s, spread evenly over the boundary
  double volume_flow = 0;
  double pressure = 0;                ///< of an outflow, over density, m2/s2
  bool of_vehicle = false;            ///< an opening or outflow of the vehicle, not of the tunnel
  std::optional<double> temperature;  ///< of a wall, K; none: `heat_flux` goes through
  double heat_flux = 0;               ///< of a wall, into the air, W/m2
  double roughness = 0;  ///< of a wall: height of sand grains that are as rough (Nikuradse 1933), m
  std::function<Vec3(const Vec3&)> profile;  ///< replaces `velocity` by one that depends on place

  Vec3 velocity_at(const Vec3& x) const {
    return (profile ? profile(x) : velocity) + cross(spin, x - spin_centre);
  }
};

struct Air {
  double density = 1.2;                 ///< kg/m3
  double kinematic_viscosity = 1.5e-5;  ///< m2/s
};

/// Turbulence of the undisturbed stream.
struct StreamTurbulence {
  double intensity = 0.002;    ///< root mean square fluctuation over speed
  double viscosity_ratio = 5;  ///< eddy viscosity over viscosity
};

/// At a place, of the equations of two quantities, each per time.
using PairedSource = std::function<std::pair<double, double>(const Vec3&)>;

struct FlowOptions {
  TurbulenceModel turbulence = TurbulenceModel::sst;
  StreamTurbulence stream_turbulence;
  /// Pseudo-time step of a developed flow, in cell crossings and diffusion times. A flow at rest
  /// does not depend on it; means of one that fluctuates do, the less the longer it is
  double courant = 50;
  double starting_courant = 10;    ///< while the flow begins
  double turbulence_courant = 40;  ///< of the turbulence equations
  int momentum_sweeps = 10;        ///< Gauss-Seidel sweeps an iteration, once steps are long
  int turbulence_sweeps = 2;
  double pressure_reduction = 0.1;  ///< fall of the pressure residual in each iteration
  int pressure_most_iterations = 30;
  /// Force per mass added to the momentum equation, m/s2 (manufactured solutions, driven channels).
  std::function<Vec3(const Vec3&)> body_force;
  /// Added to the equation of k (first) and of omega or epsilon, per time (manufactured solutions).
  PairedSource turbulence_source;
};

/// One case: air, a condition for each boundary of the mesh in order, and a reference speed.
struct FlowCase {
  Air air;
  std::vector<BoundaryCondition> conditions;
  double reference_speed = 1;   ///< m/s
  double reference_length = 1;  ///< m; with the speed the measure of residuals
  Vec3 initial_velocity;
  std::vector<AirDevice> devices;  ///< what acts inside the air
  std::optional<FastAir> fast;     ///< none: the air keeps its density
  FlowOptions options;
};

template <>
inline constexpr auto members_of<Air> =
    std::tuple{Member{"density_kg_m3", &Air::density},
               Member{"kinematic_viscosity_m2_s", &Air::kinematic_viscosity}};
static_assert(members_left_out<Air> == 0);

template <>
inline constexpr auto members_of<StreamTurbulence> =
    std::tuple{Member{"intensity", &StreamTurbulence::intensity},
               Member{"viscosity_ratio", &StreamTurbulence::viscosity_ratio}};
static_assert(members_left_out<StreamTurbulence> == 0);

template <>
inline constexpr auto members_of<FlowOptions> =
    std::tuple{Member{"turbulence", &FlowOptions::turbulence},
               Member{"stream_turbulence", &FlowOptions::stream_turbulence},
               Member{"courant", &FlowOptions::courant},
               Member{"starting_courant", &FlowOptions::starting_courant},
               Member{"turbulence_courant", &FlowOptions::turbulence_courant},
               Member{"momentum_sweeps", &FlowOptions::momentum_sweeps},
               Member{"turbulence_sweeps", &FlowOptions::turbulence_sweeps},
               Member{"pressure_reduction", &FlowOptions::pressure_reduction},
               Member{"pressure_most_iterations", &FlowOptions::pressure_most_iterations}};
// The two sources given by functions, which only programs can set.
static_assert(members_left_out<FlowOptions> == 2);

}  // namespace dunefield
