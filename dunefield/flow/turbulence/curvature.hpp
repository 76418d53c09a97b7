// Production of turbulence where streamlines are curved (Smirnov and Menter 2009, after Spalart and
// Shur 1997): less along a convex wall and in the core of a vortex, more along a concave wall.
#pragma once

#include <vector>

#include <dunefield/flow/flow_state.hpp>

namespace dunefield {

class CurvatureCorrection {
 public:
  explicit CurvatureCorrection(const FlowState& state);

  /// From the present velocity gradient, omega and fluxes.
  /// @param strain2 2 S_ij S_ij, per own cell, 1/s2
  void update(const FlowState& state, const std::vector<double>& strain2);
  /// Of the production of k and of omega: from 0 to 1.25.
  double factor(std::size_t cell) const { return factor_[cell]; }

 private:
  std::vector<double> factor_;                    ///< per own cell
  std::vector<std::array<double, 6>> convected_;  ///< along the stream: volume times DS_ij/Dt
};

}  // namespace dunefield
