#include <dunefield/campaign/comparison.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

double newtons_of_cd(const Figures& f) {
  return f.reference.dynamic_pressure() * f.reference.frontal_area;
}

/// @param mesh half intervals that both meshes' positions give, absolute
Difference difference(const WindowMean& run, const WindowMean& base, double mesh_run,
                      double mesh_base) {
  const double parts[] = {run.half_interval, base.half_interval, mesh_run, mesh_base};
  double sum = 0;
  for (const double p : parts) sum += p * p;
  return {run.mean - base.mean, std::sqrt(sum)};
}

void fill(ComparisonRow& row, const Figures& base) {
  const Figures& run = row.run;
  const MeshScatter a = mesh_scatter(run.run.recipe), b = mesh_scatter(base.run.recipe);
  row.cd = difference(run.cd, base.cd, a.drag * run.cd.mean, b.drag * base.cd.mean);
  row.cl = difference(run.cl, base.cl, a.cl, b.cl);
  row.clf = difference(run.clf, base.clf, a.clf, b.clf);
  row.clr = difference(run.clr, base.clr, a.clr, b.clr);
  const double h1 = run.cd.half_interval * newtons_of_cd(run),
               h2 = base.cd.half_interval * newtons_of_cd(base);
  const double m1 = a.drag * run.drag, m2 = b.drag * base.drag;
  row.drag = {run.drag - base.drag, std::sqrt(h1 * h1 + h2 * h2 + m1 * m1 + m2 * m2)};
  if (!run.settled() || !base.settled())
    row.verdict = Verdict::not_settled;
  else if (row.drag->within_noise())
    row.verdict = Verdict::within_noise;
  else
    row.verdict = row.drag->value < 0 ? Verdict::better : Verdict::worse;
}

}  // namespace

const char* words(Verdict v) {
  switch (v) {
    case Verdict::baseline: return "baseline";
    case Verdict::better: return "less drag";
    case Verdict::worse: return "more drag";
    case Verdict::within_noise: return "within the noise";
    case Verdict::not_settled: return "none: not settled";
    case Verdict::no_baseline: return "none: no baseline";
  }
  return "";
}

MeshScatter mesh_scatter(const std::string& recipe) {
  // On the demo van 1.96 standard deviations over positions of the lattice are 1.3 % of CD, 0.014
  // of CLF and 0.02 of CLR at `standard`, 1.1 % of CD at `scout` (docs/validation.md), what short
  // histories add included. Other vehicles are not measured and fluctuate more, so that a
  // difference of two scouts says nothing under 3 % of drag, of finer recipes under 2.7 %; the
  // lifts of `scout` are taken as half as uncertain again as those of `standard`.
  constexpr MeshScatter scout = {0.03 / 1.4142, 0.036, 0.021, 0.03},
                        finer = {0.019, 0.024, 0.014, 0.02};
  return recipe == "scout" ? scout : finer;
}

std::vector<Comparison> compare(const std::vector<Figures>& runs, const std::string& baseline) {
  std::vector<Comparison> out;
  for (const Figures& run : runs) {
    auto it = std::find_if(out.begin(), out.end(),
                           [&](const Comparison& c) { return c.speed == run.run.speed; });
    if (it == out.end()) it = out.insert(out.end(), {run.run.speed, {}, {}});
    if (run.run.variant == baseline) it->baseline = run;
    it->rows.push_back({run, {}, {}, {}, {}, {}, Verdict::baseline});
  }
  for (Comparison& c : out)
    for (ComparisonRow& row : c.rows) {
      if (row.run.run.variant == baseline) continue;
      if (c.baseline)
        fill(row, *c.baseline);
      else
        row.verdict = Verdict::no_baseline;
    }
  return out;
}

std::string compared_briefly(const Record& baseline, const Record& other) {
  const Figures base = baseline.figures(), run = other.figures();
  const auto refuse = [&](const std::string& what) {
    throw InputError("the runs cannot be compared: " + what,
                     base.run.variant + " and " + run.run.variant, "compare like with like");
  };
  if (std::abs(run.run.speed / base.run.speed - 1) > 1e-9) refuse("their speeds differ");
  if (run.run.recipe != base.run.recipe) refuse("their recipes differ");
  if (run.run.layers != base.run.layers) refuse("their wall layers differ");
  if (run.run.half != base.run.half) refuse("one is a half model");
  ComparisonRow row{run, {}, {}, {}, {}, {}, Verdict::baseline};
  fill(row, base);
  return fmt::format("{} against {}: drag {:+.1f} ± {:.1f} N ({:+.1f} ± {:.1f} %), {}",
                     run.run.variant, base.run.variant, row.drag->value, row.drag->uncertainty,
                     100 * row.drag->value / base.drag, 100 * row.drag->uncertainty / base.drag,
                     words(row.verdict));
}

}  // namespace dunefield
