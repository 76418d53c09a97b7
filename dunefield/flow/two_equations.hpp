// What the models with an equation for k and one for its rate or frequency of dissipation have in
// common.
#pragma once

#include <dunefield/flow/turbulence.hpp>

namespace dunefield {

/// A value for k and one for the second quantity.
template <class Real>
struct Pair {
  Real k = 0, q = 0;

  Pair& operator+=(const Pair& b) {
    k += b.k, q += b.q;
    return *this;
  }
  Pair& operator-=(const Pair& b) {
    k -= b.k, q -= b.q;
    return *this;
  }
};
inline Pair<double> operator*(const Pair<double>& a, const Pair<float>& b) {
  return {a.k * static_cast<double>(b.k), a.q * static_cast<double>(b.q)};
}
inline Pair<double> operator/(const Pair<double>& a, const Pair<float>& b) {
  return {a.k / static_cast<double>(b.k), a.q / static_cast<double>(b.q)};
}

/// The second quantity q is omega, or epsilon: the same field of the state. In cells at walls it is
/// given by the wall law.
class TwoEquations : public TurbulenceEquations {
 public:
  void start() override;
  void solve(double courant) override;

 protected:
  /// @param dissipation q is epsilon, not omega
  TwoEquations(FlowState& state, bool dissipation);

  /// Diffusivities and what the sources need, from the gradients of k and q.
  virtual void prepare() = 0;
  /// q of a wall cell at height `y` above one of its faces, with the wall law's velocity scale
  /// there.
  virtual double wall_value(std::size_t cell, double y, double scale) const = 0;
  /// Sources of both equations into `rhs_` and the matrices' diagonals, on top of transport.
  virtual void add_sources(double courant) = 0;

  /// A cell at walls: means over its wall faces.
  struct WallCell {
    int cell = 0;
    double area = 0;
    double q = 0, production = 0;  ///< q and the production of k by the wall law
  };
  /// None if the cell has no wall.
  const WallCell* wall_cell(std::size_t cell) const {
    return wall_cell_of_[cell] < 0 ? nullptr
                                   : &wall_cells_[static_cast<std::size_t>(wall_cell_of_[cell])];
  }
  /// Pseudo-time's diagonal of a cell.
  double rate(std::size_t cell, double courant) const;
  /// Closes the row of a cell: what `add` holds on top of transport, with its diagonals; or q
  /// given.
  void set_k(std::size_t cell, double source, double diagonal);
  void set_q(std::size_t cell, double source, double diagonal);
  void give_q(std::size_t cell, double value);

  FlowState& s_;
  const bool dissipation_;  ///< the second quantity is epsilon, not omega
  double stream_k_ = 0, stream_q_ = 0;
  std::vector<Vec3> grad_k_, grad_q_;
  std::vector<double> strain2_, gamma_k_, gamma_q_;

 private:
  void find_wall_cells();
  void update_wall_cells();
  void assemble();
  void add_boundaries();

  std::vector<int> wall_cell_of_;  ///< per own cell, -1 for none
  std::vector<WallCell> wall_cells_;
  Matrix<Pair<float>> matrix_;
  std::vector<Pair<double>> rhs_, diagonal_, delta_;
  std::vector<Pair<double>> given_;  ///< sources given with the case; empty if there are none
  std::vector<double> outflux_;
};

/// 2 S_ij S_ij
double strain_squared(const Mat3& velocity_gradient);

}  // namespace dunefield
