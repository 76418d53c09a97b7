// The sparsity of all matrices of a rank: one row per own cell, a column for each neighbour over a
// face.
#pragma once

#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/halo.hpp>

namespace dunefield {

/// Compressed rows without the diagonal. Columns may be halo cells (>= `rows`).
struct Graph {
  int rows = 0;
  int columns = 0;          ///< own cells and halo cells
  std::vector<int> start;   ///< rows + 1
  std::vector<int> column;  ///< ascending within a row; twice where two faces part the same cells

  int entries() const { return static_cast<int>(column.size()); }
};

/// Where the two off-diagonal entries of a face stand: no two faces share one. An entry in a halo
/// row has the spare slot behind the last.
struct FaceSlots {
  std::vector<int> of_below;  ///< entry (below, above)
  std::vector<int> of_above;  ///< entry (above, below)
};

/// Builds the graph from the cells that each interior face parts.
Graph make_graph(int own_cells, int all_cells, const std::vector<int>& below,
                 const std::vector<int>& above, FaceSlots& slots);

/// A matrix on the graph: diagonal and off-diagonal entries (one spare at the end).
template <class Real, class Diagonal = Real>
struct Matrix {
  std::vector<Diagonal> diagonal;
  std::vector<Real> entry;

  void resize(const Graph& g) {
    diagonal.resize(static_cast<std::size_t>(g.rows));
    entry.resize(static_cast<std::size_t>(g.entries()) + 1);
  }
};

/// Gauss-Seidel sweeps from zero, alternately forward and backward, on matrix x = rhs; halo values
/// are current on return. T may be a scalar or anything that adds up and is multiplied with Real.
template <class Real, class T>
void gauss_seidel(const Graph& g, const Matrix<Real>& m, const std::vector<T>& rhs,
                  std::vector<T>& x, int sweeps, Halo& halo) {
  // The first sweep meets zeros but for the rows it has done.
  for (int i = 0; i < g.rows; ++i) {
    const auto r = static_cast<std::size_t>(i);
    T sum = rhs[r];
    for (auto k = static_cast<std::size_t>(g.start[r]);
         k < static_cast<std::size_t>(g.start[r + 1]) && g.column[k] < i; ++k)
      sum -= x[at(g.column[k])] * m.entry[k];
    x[r] = sum / m.diagonal[r];
  }
  for (int s = 1; s < sweeps; ++s) {
    halo.refresh(x);
    for (int i = 0; i < g.rows; ++i) {
      const auto r = static_cast<std::size_t>(s % 2 ? g.rows - 1 - i : i);
      T sum = rhs[r];
      for (auto k = static_cast<std::size_t>(g.start[r]);
           k < static_cast<std::size_t>(g.start[r + 1]); ++k)
        sum -= x[at(g.column[k])] * m.entry[k];
      x[r] = sum / m.diagonal[r];
    }
  }
  halo.refresh(x);
}

}  // namespace dunefield
