// The adjoint of a steady flow: one solution tells how a load answers to any change of shape.
#pragma once

#include <dunefield/base/progress.hpp>
#include <dunefield/sensitivity/transposed_flow.hpp>

namespace dunefield {

struct AdjointOptions {
  double reduction = 1e-5;    ///< of the residual
  int most_iterations = 800;  ///< for each damping
  int kept = 60;              ///< vectors between restarts
};

/// A solution of J^T lambda = - derivatives of the load.
struct Adjoint {
  FlowVector lambda;
  /// What the solution asked for: damping as that of a step of pseudo-time so many cell crossings
  /// long; 0: none
  double damping_courant = 0;
  int iterations = 0;
  double reduction = 1;  ///< reached
};

/// A flow at rest has one solution, without damping. Else the two with the least damping that the
/// solver bears, the last with half of the first's: what they differ by tells what damping costs.
/// Empty where fewer converge.
/// By restarted, flexible GMRES (Saad 1993), preconditioned with the transposed SIMPLE step:
/// Gauss-Seidel on the transposed momentum matrix, then the pressure correction's multigrid.
/// @param gradient derivatives of the load (TransposedFlow::load_gradient)
/// @throw Cancelled
std::vector<Adjoint> solve_adjoint(FrozenFlow& flow, const TransposedFlow& transposed,
                                   const FlowVector& gradient, const AdjointOptions& options,
                                   const Progress& progress);

}  // namespace dunefield
