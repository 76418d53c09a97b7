// How far an iteration goes: steps of pseudo-time and the sweeps that solve them.
#pragma once

#include <dunefield/flow/conditions.hpp>

namespace dunefield {

struct PseudoTimeStep {
  double courant = 0;             ///< of momentum, in cell crossings
  double diffusive_courant = 0;   ///< of momentum, in diffusion times of a cell
  double turbulence_courant = 0;  ///< of the turbulence equations and the energy equation
  int momentum_sweeps = 0;
};

/// Short steps while the flow begins, then longer by 3 % in each iteration up to the case's own.
/// The longer the steps, the better they damp a wake's slow modes: what swings in short steps adds
/// stresses of its own, by which the mean of drag depends on the step (docs/method.md).
/// Laminar flows keep the first steps' number of diffusion times: where diffusion leads in all
/// directions, more are not borne beside changes of cell size (a manufactured solution diverges from
/// 20 on). In the layers of turbulent flows it leads across the layer only; there steps that are
/// short beside those of the flow around make the separation swing.
/// @param developed iterations since the flow counts as developed; negative before
PseudoTimeStep pseudo_time_step(const FlowOptions& options, int developed);

/// The same options with all steps shortened to this share.
FlowOptions with_steps_shortened(FlowOptions options, double share);

}  // namespace dunefield
