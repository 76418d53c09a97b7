// The k-omega SST model (Menter, Kuntz, Langtry 2003), with sustaining terms for the stream (Spalart and Rumsey 2007).
#pragma once

#include <dunefield/flow/turbulence.hpp>

namespace dunefield {

class Sst : public TurbulenceEquations {
 public:
  explicit Sst(FlowState& state);

  void start() override;
  void update_eddy_viscosity() override;
  void solve(double courant) override;

  double stream_k() const { return stream_k_; }
  double stream_omega() const { return stream_omega_; }

 private:
  void blend();
  void wall_cells();
  void assemble(double courant);
  void add_interior();
  void add_boundaries();
  void add_sources(double courant);

  FlowState& s_;
  double stream_k_ = 0, stream_omega_ = 0;
  std::vector<Vec3> grad_k_, grad_omega_;
  std::vector<double> strain2_, f1_, cross_, gamma_k_, gamma_omega_;
  std::vector<double> wall_omega_, wall_production_, wall_share_, wall_area_;  ///< wall cells; area 0 elsewhere
  Matrix<float> matrix_k_, matrix_omega_;
  struct Two {
    double k = 0, omega = 0;
  };
  std::vector<Two> rhs_, diagonal_;
  std::vector<double> rhs_k_, rhs_omega_, delta_k_, delta_omega_, outflux_;
};

}  // namespace dunefield
