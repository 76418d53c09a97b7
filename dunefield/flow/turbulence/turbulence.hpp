// What all turbulence models have in common: the steps of an iteration.
#pragma once

#include <memory>

#include <dunefield/flow/conditions.hpp>

namespace dunefield {

struct FlowState;

class TurbulenceEquations {
 public:
  virtual ~TurbulenceEquations() = default;
  /// The stream's turbulence everywhere.
  virtual void start() = 0;
  /// Eddy viscosity from the present fields; needs the velocity gradient.
  virtual void update_eddy_viscosity() = 0;
  /// One step of the equations on the present fluxes.
  virtual void solve(double courant) = 0;
};

/// The equations of a model on a state, which must outlive them; none for laminar flow.
std::unique_ptr<TurbulenceEquations> turbulence_equations(TurbulenceModel model, FlowState& state);

}  // namespace dunefield
