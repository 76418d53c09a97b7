#include <dunefield/flow/pseudo_time.hpp>

#include <algorithm>
#include <cmath>

namespace dunefield {

PseudoTimeStep pseudo_time_step(const FlowOptions& o, int grown) {
  constexpr double growth = 1.03;
  constexpr double turbulence_over_momentum = 4;  // at most; turbulence bears longer steps
  constexpr int short_step_sweeps = 5;            // enough to solve for a step of ten crossings
  PseudoTimeStep step;
  const double first = std::min(o.courant, o.starting_courant);
  step.courant = std::min(o.courant, first * std::pow(growth, grown));
  step.diffusive_courant = o.turbulence == TurbulenceModel::laminar ? first : step.courant;
  step.turbulence_courant = std::min(o.turbulence_courant, turbulence_over_momentum * step.courant);
  step.momentum_sweeps = step.courant > o.starting_courant
                             ? o.momentum_sweeps
                             : std::min(o.momentum_sweeps, short_step_sweeps);
  return step;
}

FlowOptions with_steps_shortened(FlowOptions o, double share) {
  for (double* courant : {&o.courant, &o.starting_courant, &o.turbulence_courant})
    *courant *= share;
  return o;
}

}  // namespace dunefield
