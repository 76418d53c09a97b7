// What the models with an equation for k and one for its rate or frequency of dissipation have in
// common.
#pragma once

#include <dunefield/flow/turbulence/scalar_transport.hpp>
#include <dunefield/flow/turbulence/turbulence.hpp>

namespace dunefield {

/// The second quantity q is omega, or epsilon. In cells at walls it is given by the wall law.
class TwoEquations : public TurbulenceEquations {
 public:
  void start() override { transport_.start(); }
  void solve(double courant) override;

 protected:
  /// @param dissipation q is epsilon, not omega
  TwoEquations(FlowState& state, bool dissipation);

  /// Diffusivities and what the sources need, from the gradients of k and q.
  virtual void prepare() = 0;
  /// q of a wall cell at height `y` above one of its faces, with the wall law's velocity scale
  /// there.
  virtual double wall_value(std::size_t cell, double y, double scale) const = 0;
  /// Sources of both equations, on top of transport.
  virtual void add_sources(double courant) = 0;

  static constexpr std::size_t of_k = 0, of_q = 1;  ///< numbers of the quantities
  /// Means over a wall cell's faces: q, and the production of k by the wall law.
  struct AtWall {
    double q = 0, production = 0;
  };
  /// None if the cell has no wall.
  const AtWall* at_wall(std::size_t cell) const {
    const int w = wall_cells_.of(cell);
    return w < 0 ? nullptr : &at_wall_[at(w)];
  }
  double stream_k() const { return transport_.quantity(of_k).stream; }
  double stream_q() const { return transport_.quantity(of_q).stream; }

  FlowState& s_;
  ScalarTransport<2> transport_;
  std::vector<double> strain2_;

 private:
  void update_wall_cells();

  WallCells wall_cells_;
  std::vector<AtWall> at_wall_;
};

/// 2 S_ij S_ij
double strain_squared(const Mat3& velocity_gradient);

}  // namespace dunefield
