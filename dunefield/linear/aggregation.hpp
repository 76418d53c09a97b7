// Coarser levels of a matrix: rows joined by their strongest connections (Notay 2010).
#pragma once

#include <vector>

#include <dunefield/linear/graph.hpp>

namespace dunefield {

/// Two pairwise passes: aggregates of about four own rows of this rank, numbered in the order of
/// their first row, so that a space-filling order survives.
/// @param entry the matrix's own, off the diagonal
/// @param count how many aggregates there are
/// @return the aggregate of each own row
std::vector<int> aggregate_rows(const Graph& g, const std::vector<float>& entry, int& count);

/// Merges the rows of `g` by aggregate.
/// @param aggregate of each own row and halo column
/// @param slot gets, for each entry of `g`, the coarse one, or -1 where it falls on the diagonal
Graph coarsen(const Graph& g, const std::vector<int>& aggregate, int rows, int columns,
              std::vector<int>& slot);

/// What the entries of a level add up to between the aggregates.
void add_entries(const std::vector<float>& fine, const std::vector<int>& slot,
                 std::vector<float>& coarse);

/// The halo of the coarse level: each neighbour's aggregates that the fine halo cells belong to.
/// Every rank must call it.
/// @param aggregate of each own row; those of the halo cells are put behind them
HaloPlan coarsen_halo(const Halo& fine, std::vector<int>& aggregate, int own_coarse);

}  // namespace dunefield
