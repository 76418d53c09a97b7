// How much a difference of two variants owes to where the cells happen to lie.
#pragma once

#include <vector>

#include <dunefield/record/record.hpp>

namespace dunefield {

/// Standard deviations, over positions of the octree, of the difference between two variants that
/// are both run on the same position.
struct PairedScatter {
  double drag = 0;                  ///< as a share of the baseline's
  double cl = 0, clf = 0, clr = 0;  ///< absolute
  double degrees_of_freedom = 0;    ///< of the measurement of drag
  double degrees_of_lifts = 0;      ///< degrees of freedom of that of lifts
};

/// As measured on the demo vehicles (bench/pairs, docs/validation.md), by recipe, and by how the
/// vehicle ends: where the air leaves it at edges, the cells have less to decide.
PairedScatter paired_scatter(const RunIdentity& run);
/// Of a run and its baseline: as the one of both whose end decides less.
PairedScatter paired_scatter(RunIdentity run, const RunIdentity& baseline);

/// The same of single results, of which nothing cancels.
PairedScatter single_scatter(const RunIdentity& run);

/// Half of the 95 % interval of the mean of differences, one for each lattice: from what they
/// scatter themselves and the known standard deviation, pooled by their degrees of freedom.
/// @param histories half intervals that the runs' histories give each difference
double half_interval_of_mean(const std::vector<double>& differences,
                             const std::vector<double>& histories, double known_deviation,
                             double degrees_of_freedom);

}  // namespace dunefield
