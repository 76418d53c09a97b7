// What all turbulence models have in common: the steps of an iteration.
#pragma once

#include <dunefield/flow/turbulence/models.hpp>

namespace dunefield {

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

}  // namespace dunefield
