// The discrete equations of a steady flow as functions of velocity and pressure alone: turbulence,
// limits and the factors of momentum interpolation stay as they are.
#pragma once

#include <vector>

#include <dunefield/flow/continuity.hpp>
#include <dunefield/flow/flow_state.hpp>
#include <dunefield/flow/momentum.hpp>

namespace dunefield {

/// Velocity (m/s) and pressure over density (m2/s2) of each cell; or what belongs to the equations
/// of momentum (m4/s2) and mass (m3/s) of each cell.
struct FlowVector {
  std::vector<Vec3> u;
  std::vector<double> p;

  explicit FlowVector(std::size_t cells = 0) : u(cells), p(cells) {}
};
double dot(const FlowVector& a, const FlowVector& b);
/// a += factor b
void add(FlowVector& a, double factor, const FlowVector& b);

/// On one rank. Air that keeps its density, without devices, at rest in time.
class FrozenFlow {
 public:
  /// @param fields a developed flow on this mesh
  /// @throw InputError for what is not covered
  FrozenFlow(const FlowMesh& mesh, const FlowCase& flow_case, Communicator& comm,
             const Fields& fields);

  /// The residual of each equation: what is left of the forces on the air in a cell, and of the
  /// flux into it.
  FlowVector residual(const FlowVector& at);
  FlowVector residual() { return residual(point()); }
  /// The velocities and pressures of the fields.
  FlowVector point() const;
  const FlowState& state() const { return state_; }
  const std::vector<double>& volume_over_a() const { return volume_over_a_; }
  Momentum& momentum() { return momentum_; }
  Continuity& continuity() { return continuity_; }

 private:
  void evaluate();

  FlowState state_;
  std::vector<double> wall_slope_;
  Momentum momentum_;
  Continuity continuity_;
  std::vector<double> volume_over_a_;
};

/// A sum of forces and moments on the vehicle's walls: force . F + moment . M, moments about the
/// origin.
struct WallWeight {
  Vec3 force, moment;
  Vec3 at_place(const Vec3& x) const { return force + cross(moment, x); }
};
/// That sum over density, m4/s2 (or m5/s2), of the meshed part, by boundary face; zero elsewhere.
std::vector<double> weighted_loads(const FlowState& state, const WallWeight& weight);
double weighted_load(const FlowState& state, const WallWeight& weight);

}  // namespace dunefield
