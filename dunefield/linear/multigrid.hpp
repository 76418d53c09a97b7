// Flexible conjugate gradients preconditioned by one V-cycle of a pairwise-aggregation multigrid
// (Notay 2000, 2010), for the symmetric pressure equation.
#pragma once

#include <memory>
#include <vector>

#include <dunefield/linear/graph.hpp>

namespace dunefield {

struct SolveReport {
  int iterations = 0;
  double reduction = 1;  ///< final residual over initial, 2-norms
};

/// Entries in single precision are as good as any others, but the diagonal must be their sum: what
/// is left of it, over and above, decides the smooth part of the solution.
using PressureMatrix = Matrix<float, double>;

/// A hierarchy kept for the life of a mesh: the aggregates are chosen from the first matrix, later
/// matrices only refresh the values. Single precision inside; the Krylov iteration is in double.
class PressureSolver {
 public:
  PressureSolver(const Graph& graph, Halo& halo);
  ~PressureSolver();

  /// Takes a matrix in (positive diagonal, negative off-diagonals) and refreshes the hierarchy.
  /// It must stay as it is until the last solution with it.
  void set_matrix(const PressureMatrix& matrix);
  /// Solves matrix x = rhs from x = 0 until the residual has fallen by `reduction`. Halo values of
  /// x are current on return.
  /// @param singular the constant is a null vector: it is projected out
  SolveReport solve(const std::vector<double>& rhs, std::vector<double>& x, double reduction,
                    int most_iterations, bool singular);
  int levels() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
