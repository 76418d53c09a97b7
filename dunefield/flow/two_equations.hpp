// What the models with an equation for k and one for its rate or frequency of dissipation have in common.
#pragma once

#include <dunefield/flow/turbulence.hpp>

namespace dunefield {

/// The second quantity q is omega, or epsilon: the same field of the state. In cells at walls it is given by the wall law.
class TwoEquations : public TurbulenceEquations {
 public:
  void start() override;
  void solve(double courant) override;

 protected:
  /// @param dissipation q is epsilon, not omega
  TwoEquations(FlowState& state, bool dissipation);

  /// Diffusivities and what the sources need, from the gradients of k and q.
  virtual void prepare() = 0;
  /// q of a wall cell at height `y` under one of its faces, where the wall law's share of it is `share`.
  virtual double wall_value(std::size_t cell, double y, double scale, double share) const = 0;
  /// Sources of both equations into `rhs_` and the matrices' diagonals, on top of transport.
  virtual void add_sources(double courant) = 0;

  struct Two {
    double k = 0, q = 0;
  };
  /// Pseudo-time's diagonal of a cell.
  double rate(std::size_t cell, double courant) const;
  double production_at_walls(std::size_t cell, double production) const {
    return wall_area_[cell] > 0 ? wall_share_[cell] * wall_production_[cell] + (1 - wall_share_[cell]) * production : production;
  }
  /// Closes the row of a cell: what `add` holds on top of transport, with its diagonals; or q given.
  void set_k(std::size_t cell, double source, double diagonal);
  void set_q(std::size_t cell, double source, double diagonal);
  void give_q(std::size_t cell, double value);

  FlowState& s_;
  const bool dissipation_;  ///< the second quantity is epsilon, not omega
  double stream_k_ = 0, stream_q_ = 0;
  std::vector<Vec3> grad_k_, grad_q_;
  std::vector<double> strain2_, gamma_k_, gamma_q_;
  std::vector<double> wall_q_, wall_area_;  ///< wall cells; area 0 elsewhere

 private:
  void wall_cells();
  void assemble();
  void add_boundaries();

  std::vector<double> wall_production_, wall_share_;
  Matrix<float> matrix_k_, matrix_q_;
  std::vector<Two> rhs_, diagonal_;
  std::vector<Two> given_;          ///< sources given with the case; empty if there are none
  std::vector<double> rhs_k_, rhs_q_, delta_k_, delta_q_, outflux_;
};

/// 2 S_ij S_ij
double strain_squared(const Mat3& velocity_gradient);

}  // namespace dunefield
