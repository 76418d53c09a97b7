// How far an iteration goes: steps of pseudo-time and the sweeps that solve them.
#pragma once

#include <array>

#include <dunefield/flow/conditions.hpp>

namespace dunefield {

struct PseudoTimeStep {
  double courant = 0;             ///< of momentum, in cell crossings
  double diffusive_courant = 0;   ///< of momentum, in diffusion times of a cell
  double turbulence_courant = 0;  ///< of the turbulence equations and the energy equation
  int momentum_sweeps = 0;
};

/// How far the steps of an iteration have grown.
class StepGrowth {
 public:
  /// Iterations before steps grow: of a flow from the stream, of one from another result.
  static constexpr int from_stream = 80, from_another = 20;

  StepGrowth() = default;
  explicit StepGrowth(int begins) : begins_(begins) {}
  /// Before each iteration, from 0.
  void next(int iteration) {
    if (iteration >= begins_ && !comes_to_rest_) ++grown_;
  }
  /// What the last ten iterations have changed. A flow whose change falls by itself comes to rest
  /// soonest with the steps that it has.
  void note_change(double change) {
    constexpr double falling = 0.7;
    comes_to_rest_ = change < falling * change_before_;
    change_before_ = change;
  }
  int grown() const { return grown_; }
  /// All of it as numbers, for a saved state.
  std::array<double, 4> numbers() const {
    return {static_cast<double>(begins_), static_cast<double>(grown_), comes_to_rest_ ? 1.0 : 0.0,
            change_before_};
  }
  static StepGrowth of(const std::array<double, 4>& numbers) {
    StepGrowth g(static_cast<int>(numbers[0]));
    g.grown_ = static_cast<int>(numbers[1]), g.comes_to_rest_ = numbers[2] > 0;
    g.change_before_ = numbers[3];
    return g;
  }

 private:
  int begins_ = from_stream, grown_ = 0;
  bool comes_to_rest_ = false;
  double change_before_ = 0;
};

/// Short steps while the flow begins, then, if it does not come to rest by itself, longer by 3 % in
/// each iteration up to the case's own. The longer the steps, the better they damp a wake's slow
/// modes: what swings in short steps adds stresses of its own, by which the mean of drag depends on
/// the step (docs/theory/method.md).
/// Laminar flows keep the first steps' number of diffusion times: where diffusion leads in all
/// directions, more are not borne beside changes of cell size (a manufactured solution diverges
/// from 20 on). In the layers of turbulent flows it leads across the layer only; there steps that
/// are short beside those of the flow around make the separation swing.
/// @param grown iterations in which they have grown
PseudoTimeStep pseudo_time_step(const FlowOptions& options, int grown);

/// The same options with all steps shortened to this share.
FlowOptions with_steps_shortened(FlowOptions options, double share);

}  // namespace dunefield
