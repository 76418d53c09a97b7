// The one-equation model of Spalart and Allmaras (1994), without trip.
#pragma once

#include <dunefield/flow/turbulence.hpp>

namespace dunefield {

/// Its quantity, FlowState::nu_tilde, is kappa y u_tau from the wall into the logarithmic layer,
/// which is what wall cells are given.
class SpalartAllmaras : public TurbulenceEquations {
 public:
  explicit SpalartAllmaras(FlowState& state);

  void start() override;
  void update_eddy_viscosity() override;
  void solve(double courant) override;

 private:
  void wall_cells();
  void assemble(double courant);

  FlowState& s_;
  double stream_ = 0;
  std::vector<Vec3> grad_;
  std::vector<double> vorticity_, gamma_, wall_value_, wall_area_, rhs_, diagonal_, delta_,
      outflux_;
  Matrix<float> matrix_;
};

}  // namespace dunefield
