// Convection and diffusion of turbulence quantities, which cannot be negative: one assembly for the
// equations of all models, in one pass over the faces for all quantities of a model.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>

#include <dunefield/flow/flow_state.hpp>
#include <dunefield/linear/graph.hpp>

namespace dunefield {

/// One value for each of N quantities.
template <class Real, std::size_t N>
struct Several {
  std::array<Real, N> of{};

  Several& operator+=(const Several& b) {
    for (std::size_t i = 0; i < N; ++i) of[i] += b.of[i];
    return *this;
  }
  Several& operator-=(const Several& b) {
    for (std::size_t i = 0; i < N; ++i) of[i] -= b.of[i];
    return *this;
  }
};
template <std::size_t N>
Several<double, N> operator*(const Several<double, N>& a, const Several<float, N>& b) {
  Several<double, N> out;
  for (std::size_t i = 0; i < N; ++i) out.of[i] = a.of[i] * static_cast<double>(b.of[i]);
  return out;
}
template <std::size_t N>
Several<double, N> operator/(const Several<double, N>& a, const Several<float, N>& b) {
  Several<double, N> out;
  for (std::size_t i = 0; i < N; ++i) out.of[i] = a.of[i] / static_cast<double>(b.of[i]);
  return out;
}

/// The transport equations of N quantities in delta form, with local pseudo-time.
template <std::size_t N>
class ScalarTransport {
 public:
  struct Quantity {
    std::vector<double> Fields::*field;
    double stream;  ///< what the undisturbed stream brings
    /// It falls like the inverse square of the wall distance in the sublayer, as omega does
    bool falls_steeply = false;
  };
  /// @param given_source added to the quantities, per time (manufactured solutions); may be empty
  ScalarTransport(FlowState& state, const std::array<Quantity, N>& quantities,
                  const PairedSource& given_source);

  /// The stream's values everywhere.
  void start();
  void find_gradients();
  /// Transport into right-hand sides and matrices, from the gradients and `gamma`.
  void assemble();
  /// Solves for the changes and adds them; a step never takes more than nine tenths away,
  /// and all of them together leave a trace of the stream's value.
  void solve();

  std::array<std::vector<double>, N> gamma;   ///< diffusivities, m2/s, of all cells
  std::array<std::vector<Vec3>, N> gradient;  ///< of all cells

  /// Of the state, all cells.
  std::vector<double>& values(std::size_t i) const { return s_.*quantities_[i].field; }
  const Quantity& quantity(std::size_t i) const { return quantities_[i]; }
  /// Pseudo-time's diagonal of a cell.
  double rate(std::size_t cell, double courant) const;
  /// Adds a source, m3/s times the quantity, and closes the cell's row with what stands on the
  /// diagonal on top of transport.
  void set(std::size_t cell, std::size_t i, double source, double diagonal) {
    if (const TimeLevels& t = s_.time; t.active()) {
      const auto field = quantities_[i].field;
      const double volume = s_.mesh.volume[cell];
      source -=
          volume * t.change((s_.*field)[cell], (t.last.*field)[cell], (t.before.*field)[cell]);
      diagonal += volume * t.rate();
    }
    rhs_[cell].of[i] += source;
    matrix_.diagonal[cell].of[i] = static_cast<float>(diagonal_[cell].of[i] + diagonal);
  }
  /// The value of the quantity in this cell, whatever transport says.
  void give(std::size_t cell, std::size_t i, double value) {
    rhs_[cell].of[i] = value - values(i)[cell];
    matrix_.diagonal[cell].of[i] = 1;
    const Graph& g = s_.mesh.graph;
    for (int e = g.start[cell]; e < g.start[cell + 1]; ++e) matrix_.entry[at(e)].of[i] = 0;
  }

 private:
  void add_boundaries();

  FlowState& s_;
  std::array<Quantity, N> quantities_;
  Matrix<Several<float, N>> matrix_;
  std::vector<Several<double, N>> rhs_, diagonal_, delta_;
  std::vector<Several<double, N>> given_;  ///< sources given with the case; empty if there are none
  std::vector<double> outflux_;
};

/// The cells at walls, each with all its wall faces.
class WallCells {
 public:
  explicit WallCells(const FlowState& state);

  std::size_t count() const { return area_.size(); }
  /// Number among the wall cells, -1 for a cell without wall.
  int of(std::size_t cell) const { return number_[cell]; }
  /// Calls `visit(wall cell, share of its wall, face number, face)` for each wall face.
  template <class Visit>
  void for_faces(const FlowState& state, const Visit& visit) const {
    state.for_boundary(
        [&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
          if (bc.kind != ConditionKind::wall) return;
          const auto w = at(number_[at(b.cell)]);
          visit(w, b.size / area_[w], i, b);
        });
  }

 private:
  std::vector<int> number_;
  std::vector<double> area_;
};

}  // namespace dunefield
