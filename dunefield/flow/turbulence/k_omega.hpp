// What the models with k and omega have in common: omega in wall cells, and over cells of the
// sublayer.
#pragma once

#include <dunefield/flow/turbulence/two_equations.hpp>

namespace dunefield {

class KOmega : public TwoEquations {
 protected:
  /// @param beta of the destruction of omega next to walls
  KOmega(FlowState& state, double beta);

  double wall_value(std::size_t cell, double y, double scale) const override;
  /// Mean of omega squared over a cell, over the square at its centre.
  double mean_of_square(std::size_t cell) const;

 private:
  const double beta_;
  std::vector<double> height_;  ///< of own cells, over their distance from the wall, 1 at most
};

}  // namespace dunefield
