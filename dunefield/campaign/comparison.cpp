#include <dunefield/campaign/comparison.hpp>

#include <algorithm>
#include <cmath>

namespace dunefield {

const char* words(Verdict v) {
  switch (v) {
    case Verdict::baseline: return "baseline";
    case Verdict::better: return "less drag";
    case Verdict::worse: return "more drag";
    case Verdict::within_noise: return "within the noise";
  }
  return "";
}

double mesh_scatter(const std::string& recipe) {
  // On the demo van 1.96 standard deviations over positions of the lattice are 1.1 % at
  // `scout`, 1.3 % at `standard` (docs/validation.md), what short histories add included. Other
  // vehicles are not measured and fluctuate more, so that a difference of two scouts says nothing
  // under 3 %, of finer recipes under 2.7 %.
  constexpr double scout = 0.03 / 1.4142, finer = 0.019;
  return recipe == "scout" ? scout : finer;
}

std::vector<Comparison> compare(const std::vector<RunFigures>& runs, const std::string& recipe) {
  std::vector<Comparison> out;
  const double scatter = mesh_scatter(recipe);
  for (const RunFigures& run : runs) {
    auto it = std::find_if(out.begin(), out.end(),
                           [&](const Comparison& c) { return c.speed == run.speed; });
    if (it == out.end()) it = out.insert(out.end(), {run.speed, {}});
    ComparisonRow row;
    row.run = run;
    if (!it->rows.empty()) {
      const RunFigures& base = it->rows.front().run;
      const auto newtons = [](const RunFigures& r) {
        return r.reference.dynamic_pressure() * r.reference.frontal_area;
      };
      row.drag_difference = run.drag - base.drag;
      row.cd_difference = run.cd.mean - base.cd.mean;
      row.cl_difference = run.cl.mean - base.cl.mean;
      const double h1 = run.cd.half_interval * newtons(run),
                   h2 = base.cd.half_interval * newtons(base);
      const double m1 = scatter * run.drag, m2 = scatter * base.drag;
      row.drag_uncertainty = std::sqrt(h1 * h1 + h2 * h2 + m1 * m1 + m2 * m2);
      row.verdict = std::abs(row.drag_difference) <= row.drag_uncertainty ? Verdict::within_noise
                    : row.drag_difference < 0                             ? Verdict::better
                                                                          : Verdict::worse;
    }
    it->rows.push_back(row);
  }
  return out;
}

}  // namespace dunefield
