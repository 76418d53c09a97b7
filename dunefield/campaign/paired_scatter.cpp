#include <dunefield/campaign/paired_scatter.hpp>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <numeric>

#include <dunefield/balance/statistics.hpp>

namespace dunefield {

namespace {

/// How results scatter that end so blunt, or blunter.
struct Kind {
  double blunt;
  PairedScatter pairs, singles;
};

// Measured at `scout` by bench/pairs, on two lattices or three; what the histories add is included
// (docs/validation.md).
constexpr Kind kinds[] = {
    // a van, four changes, and a truck, three: edges fix where the air leaves
    {0.5, {0.0057, 0.0080, 0.0095, 0.0066, 11, 11}, {0.0093, 0.0095, 0.0116, 0.0149, 14, 14}},
    // a saloon, two changes, measured six times
    {0.25, {0.0260, 0.0406, 0.0223, 0.0235, 12, 12}, {0.0303, 0.0454, 0.0252, 0.0268, 18, 18}},
    // a rider, two changes, measured twice, and a single-seater, three; lifts are of the latter
    // alone, which scatter more
    {0, {0.0206, 0.151, 0.113, 0.055, 7, 3}, {0.0167, 0.092, 0.094, 0.037, 10, 4}},
};

const Kind& kind_of(const RunIdentity& run) {
  return *std::find_if(std::begin(kinds), std::end(kinds) - 1,
                       [&](const Kind& k) { return run.blunt >= k.blunt; });
}

/// Leaves that are so much larger make so much more. (Of the van on leaves 3.1 times those of
/// `scout`, twenty lattices, single results scatter by 1.2 % instead of 0.6: less than in
/// proportion.) `sketch`, which gives no verdicts, is guessed to scatter four times as much. Finer
/// recipes are taken to scatter as `scout`: the van's single results at `standard` do by 0.7 %
/// (twelve lattices).
PairedScatter on_leaves_of(const RunIdentity& run, PairedScatter s) {
  const double larger = run.coarseness * (run.recipe == "sketch" ? 4 : 1);
  for (double* d : {&s.drag, &s.cl, &s.clf, &s.clr}) *d *= larger;
  return s;
}

}  // namespace

PairedScatter paired_scatter(const RunIdentity& run) {
  return on_leaves_of(run, kind_of(run).pairs);
}

PairedScatter paired_scatter(RunIdentity run, const RunIdentity& baseline) {
  run.blunt = std::min(run.blunt, baseline.blunt);
  return paired_scatter(run);
}

PairedScatter single_scatter(const RunIdentity& run) {
  return on_leaves_of(run, kind_of(run).singles);
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
