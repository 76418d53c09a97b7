// The one-equation model of Spalart and Allmaras (1994), without trip.
#pragma once

#include <dunefield/flow/turbulence/scalar_transport.hpp>
#include <dunefield/flow/turbulence/turbulence.hpp>

namespace dunefield {

/// Its quantity, nu_tilde, is kappa y u_tau from the wall into the logarithmic layer, which is what
/// wall cells are given.
class SpalartAllmaras : public TurbulenceEquations {
 public:
  explicit SpalartAllmaras(FlowState& state);

  void start() override { transport_.start(); }
  void update_eddy_viscosity() override;
  void solve(double courant) override;

 private:
  void add_sources(double courant);

  FlowState& s_;
  ScalarTransport<1> transport_;
  std::vector<double> vorticity_;
  WallCells wall_cells_;
  std::vector<double> wall_value_;  ///< per wall cell
};

}  // namespace dunefield
