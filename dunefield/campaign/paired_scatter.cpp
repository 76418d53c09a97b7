#include <dunefield/campaign/paired_scatter.hpp>

#include <cmath>
#include <numeric>

#include <dunefield/balance/statistics.hpp>

namespace dunefield {

namespace {

/// What was measured at `scout`; `sketch`, which gives no verdicts, is guessed to scatter four
/// times as much. Of finer recipes only single results of the van are known (0.7 %, twelve
/// lattices): they are taken to scatter as `scout`.
struct Measured {
  PairedScatter scout, finer;
};

/// On leaves that are so much larger. Of the van on leaves 3.1 times those of `scout` (twenty
/// lattices) single results scatter by 1.2 % instead of 0.6: less than in proportion.
PairedScatter at(const Measured& measured, const RunIdentity& run) {
  PairedScatter s =
      run.recipe == "scout" || run.recipe == "sketch" ? measured.scout : measured.finer;
  const double larger = run.coarseness * (run.recipe == "sketch" ? 4 : 1);
  for (double* d : {&s.drag, &s.cl, &s.clf, &s.clr}) *d *= larger;
  return s;
}

/// Most of it ends at edges, which fix where the air leaves.
bool ends_at_edges(const RunIdentity& run) { return run.blunt >= 0.5; }

}  // namespace

// bench/pairs; what the histories add is included (docs/validation.md).
PairedScatter paired_scatter(const RunIdentity& run) {
  constexpr Measured edges = {{0.0045, 0.008, 0.003, 0.006, 3}, {0.005, 0.008, 0.006, 0.006, 4}},
                     smooth = {{0.0286, 0.022, 0.016, 0.027, 2}, {0.0286, 0.022, 0.016, 0.027, 2}};
  return at(ends_at_edges(run) ? edges : smooth, run);
}

PairedScatter single_scatter(const RunIdentity& run) {
  constexpr Measured edges = {{0.0059, 0.008, 0.006, 0.006, 3}, {0.007, 0.008, 0.006, 0.006, 11}},
                     smooth = {{0.0191, 0.023, 0.024, 0.013, 2}, {0.0191, 0.023, 0.024, 0.013, 2}};
  return at(ends_at_edges(run) ? edges : smooth, run);
}

double half_interval_of_mean(const std::vector<double>& differences,
                             const std::vector<double>& histories, double known_deviation,
                             double degrees_of_freedom) {
  const auto n = static_cast<double>(differences.size());
  const double mean = std::accumulate(differences.begin(), differences.end(), 0.0) / n;
  double squares = degrees_of_freedom * known_deviation * known_deviation, of_histories = 0;
  for (const double d : differences) squares += (d - mean) * (d - mean);
  for (const double h : histories) of_histories += h * h / (n * n);
  const double freedom = degrees_of_freedom + n - 1;
  const double of_meshes = student_t(freedom) * std::sqrt(squares / freedom / n);
  return std::sqrt(of_meshes * of_meshes + of_histories);
}

}  // namespace dunefield
