// Least-squares gradients (weights 1/d^2), with the boundary values that each quantity has.
#pragma once

#include <array>
#include <vector>

#include <dunefield/flow/conditions.hpp>
#include <dunefield/flow/flow_mesh.hpp>
#include <dunefield/flow/gradient_weights.hpp>

namespace dunefield {

/// A cell pinched between walls, and the direction across the gap, in which no neighbour tells its
/// pressure gradient.
struct PinchedCell {
  int cell = 0;
  Vec3 across;
};

/// An own cell whose gradients are less by a share, of first order with all of it.
struct LimitedCell {
  int cell = -1;
  double share = 0;
};

class Gradients {
 public:
  Gradients(const FlowMesh& mesh, const std::vector<BoundaryCondition>& conditions);

  /// Of velocity: boundary values at stream and walls (`boundary_velocity`, per boundary face),
  /// mirror images at slip planes. Of the tangential difference to a wall only the share
  /// `wall_slope` counts.
  void of_velocity(const std::vector<Vec3>& u, const std::vector<Vec3>& boundary_velocity,
                   const std::vector<double>& wall_slope, std::vector<Mat3>& out) const;
  /// Of pressure: one-sided at walls and stream, zero at the outflow, mirrored at slip planes.
  void of_pressure(const std::vector<double>& p, std::vector<Vec3>& out) const;
  template <std::size_t N>
  using Scalars = std::array<const std::vector<double>*, N>;
  template <std::size_t N>
  using Outputs = std::array<std::vector<Vec3>*, N>;
  /// Of N turbulence quantities in one pass: one-sided at all boundaries but mirrors.
  template <std::size_t N>
  void of_scalars(const Scalars<N>& quantities, const Outputs<N>& out) const;
  /// The same as weights of differences, with the present limits. Of a wall's velocity difference
  /// counts what `of_velocity` takes of it, at a slip plane that to the mirror image.
  GradientWeights velocity_weights() const;
  GradientWeights pressure_weights() const;
  /// Nothing but the walls, which let nothing through, holds the velocity across the gap in these
  /// cells.
  const std::vector<PinchedCell>& pinched() const { return pinched_; }

  /// Per cell, halo ones to be refreshed: share of the velocity gradient that convection can take
  /// to the faces; 1 but in badly shaped cells.
  std::vector<double>& reach() { return reach_; }
  const std::vector<double>& reach() const { return reach_; }
  /// From now on the gradients of these own cells are less by their shares.
  void limit(std::vector<LimitedCell> cells) { limited_ = std::move(cells); }
  const std::vector<LimitedCell>& limited_cells() const { return limited_; }

 private:
  enum Use { velocity, pressure, scalar };
  /// Inverses of sum d d^T / |d|^2 of the cells in which boundary values come in.
  struct AtBoundary {
    std::vector<int> cells;  ///< ascending
    std::vector<SymmetricMat3> inverse;
  };

  std::vector<SymmetricMat3> information(Use use) const;
  GradientWeights least_squares_weights(Use use) const;
  GradientWeights weights(Use use) const;
  void make_inverses();
  AtBoundary at_boundary(Use use, const std::vector<SymmetricMat3>& sums) const;
  /// Visits each own cell with its matrix.
  template <class Visit>
  void for_inverses(const AtBoundary& special, const Visit& visit) const;
  void keep_between_walls(std::vector<PinchedCell>& candidates) const;
  template <std::size_t N>
  void scalar_gradients(const Scalars<N>& q, const AtBoundary& special, bool outflow_given,
                        const Outputs<N>& out) const;
  bool has_value(ConditionKind kind, Use use) const;
  static std::vector<char> cells_at_layers(const FlowMesh& mesh);
  void find_reach();
  void find_thin();
  bool by_gauss(std::size_t c) const {
    return c < poor_.size() && (poor_[c] || norm2(mesh_.across[c]) > 0);
  }
  /// Green and Gauss in thin and in poor cells, with plain means on lateral faces: least squares
  /// would multiply the steep gradient across by the sagitta of a curved wall. `boundary(i)` is the
  /// value on a boundary face; it may use the least-squares gradient that stands in `out` before.
  template <class T, class G, class Value, class Outer>
  void in_thin_cells(const std::vector<T>& q, const Value& boundary, const Outer& outer,
                     std::vector<G>& out) const;

  const FlowMesh& mesh_;
  const std::vector<BoundaryCondition>& conditions_;
  std::vector<PinchedCell> pinched_;
  std::vector<char> at_layer_;  ///< own cells in or next to thin layers
  /// Of them those whose neighbours say too little in some direction for least squares
  std::vector<char> poor_;
  std::vector<LimitedCell> limited_;
  std::vector<double> reach_;
  std::vector<SymmetricMat3> inverse_;  ///< per own cell, without boundary values
  AtBoundary velocity_, pressure_;
  struct ThinFace {
    int face;
    bool below, above;  ///< which of its cells are
  };
  std::vector<int> thin_cells_;       ///< own thin and poor cells
  std::vector<ThinFace> thin_faces_;  ///< interior faces of them
  std::vector<int> thin_boundary_;    ///< boundary faces of them
  std::vector<int> boundary_of_;      ///< of each boundary face
};

template <class Visit>
void Gradients::for_inverses(const AtBoundary& special, const Visit& visit) const {
  std::size_t next = 0;
  for (std::size_t c = 0; c < inverse_.size(); ++c) {
    const bool is_special = next < special.cells.size() && at(special.cells[next]) == c;
    visit(c, is_special ? special.inverse[next++] : inverse_[c]);
  }
}

}  // namespace dunefield
