// Which run of a matrix starts from which, and which is compared with which.
#pragma once

#include <vector>

#include <dunefield/campaign/campaign_setup.hpp>

namespace dunefield {

constexpr int from_nothing = -1;

/// For each run the number of an earlier one of the matrix whose result it starts from, or
/// `from_nothing`. It follows from the matrix alone, so that results are the same bits however many
/// processes share the runs, in whatever order they end: other speeds start from the variant's
/// first speed, a setting from the one before it, another lattice from the first, and another
/// variant from the first one.
std::vector<int> starts(const std::vector<MatrixRun>& matrix);

/// For each run the number of the baseline's at the same speed, setting and lattice, where it is an
/// earlier one of the matrix; else `from_nothing`.
/// @param baseline number of the variant
std::vector<int> baseline_runs(const std::vector<MatrixRun>& matrix, std::size_t baseline);

}  // namespace dunefield
