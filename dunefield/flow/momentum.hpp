// The momentum equation in delta form: second-order residual, first-order matrix, local
// pseudo-time.
#pragma once

#include <array>

#include <dunefield/flow/flow_state.hpp>
#include <dunefield/flow/pseudo_time.hpp>
#include <dunefield/linear/graph.hpp>

namespace dunefield {

class Momentum {
 public:
  explicit Momentum(FlowState& state);

  /// Assembles from the present state and solves for the velocity change. What the local steps of
  /// pseudo-time go by takes in the present flow with the weight `follow`, from 0 to 1.
  void solve(const PseudoTimeStep& step, double follow);

  /// The residual, of second order, and the matrix, of first, of the present state: which does not
  /// change.
  void assemble();
  /// Per own cell, over density, m4/s2; until the next `solve` changes it at slip planes.
  const std::vector<Vec3>& residual() const { return rhs_; }
  const Matrix<float>& matrix() const { return matrix_; }

  const std::vector<Vec3>& delta() const { return delta_; }
  /// Volume over the diagonal without pseudo-time, s.
  const std::vector<double>& volume_over_a() const { return volume_over_a_; }
  /// Share of pseudo-time, and of time, in the full diagonal.
  const std::vector<double>& pseudo_share() const { return pseudo_share_; }
  /// SIMPLEC factor V / (pseudo-time + boundary coefficients), s.
  const std::vector<double>& correction() const { return correction_; }
  /// This rank's sums of the squared residual acceleration, volume weighted, and of the volume: the
  /// root of their ratio over all ranks is the residual, m/s2.
  const std::array<double, 2>& residual_sums() const { return residual_sums_; }

 private:
  void interior();
  void damp_limited();
  void boundaries();
  void change_in_time();
  void pseudo_time(const PseudoTimeStep& step, double follow);

  /// What makes up a cell's diagonal, m3/s.
  struct Diagonal {
    double neighbours = 0, boundary = 0;
    double diffusion = 0, outflux = 0;  ///< for the pseudo-time
    /// Of cores, across their axis: steps as short as this asks for are taken in all directions
    double held = 0;
  };

  FlowState& s_;
  Matrix<float> matrix_;
  std::vector<Vec3> rhs_, delta_;
  std::vector<Diagonal> diagonal_;
  std::vector<double> volume_over_a_, pseudo_share_, correction_;
  std::vector<Vec3> body_force_;
  std::array<double, 2> residual_sums_{};
};

}  // namespace dunefield
