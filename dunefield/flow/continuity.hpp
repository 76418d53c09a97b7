// Face fluxes by momentum interpolation, and the pressure correction that makes them free of
// divergence.
#pragma once

#include <array>

#include <dunefield/flow/momentum.hpp>
#include <dunefield/linear/multigrid.hpp>

namespace dunefield {

/// |S|^2 / (S . d) of an outflow face, m.
double outflow_g(const FlowMesh& mesh, const FlowMesh::BoundaryFace& face);
/// Volume flux over an interior face that velocities and pressures ask for, m3/s: momentum
/// interpolation (Rhie and Chow 1983).
/// @param va volume over the diagonal of the momentum equation, per cell, s
double interpolated_flux(const FlowState& state, std::size_t face, const std::vector<double>& va);
/// The same at an outflow face.
double outflow_flux(const FlowState& state, const FlowMesh::BoundaryFace& face,
                    const BoundaryCondition& condition, const std::vector<double>& va);

class Continuity {
 public:
  explicit Continuity(FlowState& state);

  /// Makes any flux field conserve volume by the gradient of a potential (start of a run).
  void project_flux();
  /// Predicted fluxes, pressure correction, corrected flux, pressure and velocity.
  /// The converged flux does not depend on the pseudo-time: it enters through the share c = r / (a
  /// + r) of the old flux.
  void correct(const Momentum& momentum, double reduction, int most_iterations);

  /// The system of a pressure correction to the present fluxes, ready to be solved.
  void prepare(const Momentum& momentum);
  /// Solves it for another right-hand side, from zero.
  void solve_for(const std::vector<double>& rhs, std::vector<double>& x, double reduction,
                 int most_iterations) {
    solver_.solve(rhs, x, reduction, most_iterations, enclosed_);
  }

  const SolveReport& last_solve() const { return solve_; }
  /// This rank's sums of |divergence| over cells before the correction, and of the stream's flux:
  /// their ratio over all ranks is the imbalance.
  const std::array<double, 2>& imbalance_sums() const { return imbalance_sums_; }
  /// All boundaries have given fluxes: the pressure's level is free.
  bool enclosed() const { return enclosed_; }
  /// The system of the last pressure correction.
  const PressureMatrix& matrix() const { return matrix_; }
  const std::vector<double>& right_hand_side() const { return divergence_; }
  /// Flux that enters through all boundaries, m3/s.
  double inflow() const;

 private:
  double own_inflow() const;
  void predict(const Momentum& momentum);
  /// The system for a potential whose gradient, times `factor` (one if none), makes the present
  /// fluxes conserve volume.
  void assemble(const std::vector<double>* factor);
  void apply();
  void find_velocity_of_fluxes();
  void find_upstream_shares();
  void find_face_density();
  void add_compression();
  /// The velocity that goes with the fluxes that `apply` added.
  Vec3 added_velocity(std::size_t cell) const {
    const std::array<float, 6>& m = of_fluxes_[cell];
    return SymmetricMat3{m[0], m[1], m[2], m[3], m[4], m[5]} * added_flux_[cell];
  }

  FlowState& s_;
  PressureSolver solver_;
  PressureMatrix matrix_;
  std::vector<double> divergence_, correction_;
  /// Per own cell: inverse of sum n n^T |S|; a step may be a little off, its end is not
  std::vector<std::array<float, 6>> of_fluxes_;
  std::vector<Vec3> added_flux_;      ///< per cell: sum n flux
  std::vector<double> face_density_;  ///< over the stream's; of fast air only
  /// Of fast air, a cell: how far upstream cells alone count, since nothing runs upstream where the
  /// flow is about as fast as sound; 0 to 1
  std::vector<double> upstream_share_;
  std::vector<double> at_outflow_;  ///< coefficient of outflow faces, 0 of others
  SolveReport solve_;
  bool enclosed_;
  std::array<double, 2> imbalance_sums_{};
};

}  // namespace dunefield
