// One case, steady or in time, of slow or fast air, on one rank's share of the mesh.
#pragma once

#include <memory>
#include <optional>

#include <dunefield/flow/continuity.hpp>
#include <dunefield/flow/energy.hpp>
#include <dunefield/flow/flow_state.hpp>
#include <dunefield/flow/momentum.hpp>
#include <dunefield/flow/recombination.hpp>
#include <dunefield/flow/turbulence/turbulence.hpp>

namespace dunefield {

struct IterationReport {
  int iteration = 0;
  /// Root mean square residual acceleration, volume weighted, over U^2 / L
  double momentum_residual = 0;
  /// Sum of |divergence| before the pressure correction over the stream's flux
  double mass_imbalance = 0;
  int pressure_iterations = 0;
  double change = 0;        ///< see Recombination
  bool recombined = false;  ///< it is at work
};

/// Everything a rank needs to go on as if it had not stopped, to the last bit: the fields that are
/// carried, and what is no field. The rest follows from it.
struct SolverState : Fields {
  int iteration = 0;
  StepGrowth growth;  ///< of the steps of pseudo-time
  std::vector<double> flux, boundary_flux, wall_slope, step_rate;
  std::vector<int> limited;           ///< cells
  std::vector<double> limited_share;  ///< of each
  RecombinationState recombination;   ///< empty: what it gathered is lost
  TimeLevels time;

  /// Calls `visit` with each array of real numbers, always in the same order; of a FlowState as
  /// well.
  template <class State, class Visit>
  static void visit_values(State& s, const Visit& visit) {
    for_each_field([&](const auto& field) {
      if (field.carried) visit(s.*field.values);
    });
    visit(s.flux), visit(s.boundary_flux), visit(s.wall_slope);
  }
};

/// Segregated solution by a SIMPLEC-type correction (van Doormaal and Raithby 1984) with momentum
/// interpolation (Rhie and Chow 1983) that does not depend on the relaxation. All calls are
/// collective.
class FlowSolver {
 public:
  /// The mesh and the case must outlive the solver. @throw InputError when conditions contradict
  FlowSolver(const FlowMesh& mesh, const FlowCase& flow_case, Communicator& comm);

  /// Uniform stream, fluxes of potential flow.
  void start();
  /// From fields of the whole mesh, which rank 0 holds; another model's turbulence is turned into
  /// this one's as far as that goes.
  void start_from(Fields fields);
  /// From this rank's state of an earlier solver on the same share of the same mesh.
  void restore(const SolverState& state);
  /// Without what a recombination has gathered, which `recombination()` holds.
  SolverState save() const;
  /// @throw FlowError with the place when a velocity is no longer finite or beyond all reason
  IterationReport iterate();
  /// Brings the swings to rest, where that can be done, from now on (Recombination).
  void recombine() { recombination_.begin(); }
  /// Limited cells stay so: after a divergence.
  void keep_limited() { restores_ = false; }
  /// From here on the flow is one in time, in steps of `step` (s); recombination ends.
  void begin_time(double step);
  /// The present fields become those of the moment before: iterations follow until the next one is
  /// found.
  void next_moment();
  /// A last pressure correction to a tight tolerance, so that the stored fluxes conserve mass.
  void close_mass();

  const FlowState& state() const { return state_; }
  const Continuity& continuity() const { return continuity_; }
  const Recombination& recombination() const { return recombination_; }
  int iteration() const { return iteration_; }
  const StepGrowth& growth() const { return growth_; }
  /// Net flux through all boundaries over the inflow: the global mass balance.
  double mass_balance() const;
  /// Fields of the whole mesh, on rank 0.
  Fields gather() const;
  /// Centres of the cells that are limited by more than a tenth: of all ranks on rank 0.
  std::vector<Vec3> first_order_cells() const;

 private:
  void refresh_all();
  /// Where the flow is lost on this rank, if it is.
  std::optional<int> lost_cell() const;
  [[noreturn]] void report_divergence(std::optional<int> cell) const;
  bool turbulence_is_due() const;
  double follow() const;
  void limit_runaways();

  const FlowMesh& mesh_;
  const FlowCase& case_;
  Communicator& comm_;
  FlowState state_;
  Momentum momentum_;
  Continuity continuity_;
  std::unique_ptr<TurbulenceEquations> turbulence_;  ///< none if laminar
  std::unique_ptr<Energy> energy_;                   ///< of fast air
  Recombination recombination_;
  int iteration_ = 0;
  StepGrowth growth_;
  int of_moment_ = 0;     ///< iterations since the last moment, of a flow in time
  bool restores_ = true;  ///< limited cells to second order
};

}  // namespace dunefield
