#include <dunefield/campaign/claims.hpp>

#include <dunefield/balance/statistics.hpp>

namespace dunefield {
namespace {

/// Intervals widened by what single results scatter by over positions of the octree.
Figures with_scatter(const Figures& run, int lattices) {
  Figures f = run;
  const PairedScatter s = single_scatter(run.run);
  const auto widen = [&](WindowMean& w, double deviation, double degrees_of_freedom) {
    w.half_interval = std::hypot(w.half_interval,
                                 student_t(degrees_of_freedom) * deviation / std::sqrt(lattices));
  };
  widen(f.cd, s.drag * std::abs(f.cd.mean), s.degrees_of_freedom);
  for (const auto& [mean, deviation] :
       {std::pair(&f.cl, s.cl), std::pair(&f.clf, s.clf), std::pair(&f.clr, s.clr)})
    widen(*mean, deviation, s.degrees_of_lifts);
  return f;
}

}  // namespace

std::vector<ClaimCompared> compare_claims(const std::vector<Claim>& claims,
                                          const std::vector<Comparison>& comparisons,
                                          const std::string& where) {
  std::vector<ClaimCompared> out;
  for (const Claim& claim : claims)
    for (const Comparison& c : comparisons) {
      if (claim.speed > 0 && std::abs(c.speed / claim.speed - 1) > 1e-6) continue;
      for (const ComparisonRow& r : c.rows) {
        if (r.run.run.variant != claim.variant) continue;
        ClaimCompared& one = out.emplace_back();
        one.claim = claim, one.speed = c.speed, one.settings = c.settings;
        one.ours = derived(with_scatter(r.run, r.lattices), {claim.name, claim.figure, ""}, where);
        one.difference = {one.ours.value - claim.value,
                          std::hypot(one.ours.half_interval, claim.half_interval)};
        one.settled = r.run.settled();
      }
    }
  return out;
}

}  // namespace dunefield
