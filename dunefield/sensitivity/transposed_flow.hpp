// The transpose of the linearised equations of a frozen flow, face by face.
#pragma once

#include <dunefield/flow/gradient_weights.hpp>
#include <dunefield/sensitivity/frozen_flow.hpp>

namespace dunefield {

/// With J the derivatives of `FrozenFlow::residual` at the flow's present point. The wall law's
/// shear follows the slip (with frozen turbulence energy); the share of the slip that gradients see
/// does not.
class TransposedFlow {
 public:
  /// @param flow must outlive this; its residual was evaluated last where J is taken
  explicit TransposedFlow(const FrozenFlow& flow);

  /// J^T lambda
  FlowVector times(const FlowVector& lambda) const;
  /// The derivatives of `weighted_load`.
  FlowVector load_gradient(const WallWeight& weight) const;

 private:
  /// What belongs to the quantities that follow from velocity and pressure.
  struct Reverse {
    FlowVector x;
    std::vector<Mat3> grad_u;
    std::vector<Vec3> grad_p, gauss_p;
    explicit Reverse(std::size_t cells) : x(cells), grad_u(cells), grad_p(cells), gauss_p(cells) {}
  };
  void interior(const FlowVector& lambda, Reverse& r) const;
  void limited_faces(const FlowVector& lambda, Reverse& r) const;
  void boundaries(const FlowVector& lambda, Reverse& r) const;
  void wall_stress(std::size_t i, const FlowMesh::BoundaryFace& b, const Vec3& of_stress,
                   Reverse& r) const;
  void face_pressure(const FlowMesh::BoundaryFace& b, const Vec3& of_force, Reverse& r) const;
  /// From Gauss sums, then from gradients, to velocity and pressure.
  void finish(Reverse& r) const;

  const FlowState& s_;
  const std::vector<double>& volume_over_a_;
  GradientWeights of_velocity_, of_pressure_;
  /// Wall faces: derivative of the shear's factor by the logarithm of the slip, m/s
  std::vector<double> factor_slope_;
};

}  // namespace dunefield
