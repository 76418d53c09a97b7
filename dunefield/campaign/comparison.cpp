#include <dunefield/campaign/comparison.hpp>

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

double newtons_of_cd(const Figures& f) {
  return f.reference.dynamic_pressure() * f.reference.frontal_area;
}

/// A variant at a speed, lattice after lattice.
using Lattices = std::vector<Figures>;

WindowMean mean_of(const Lattices& all, WindowMean Figures::*quantity) {
  WindowMean w = all.front().*quantity;
  double sum = 0, squares = 0;
  for (const Figures& f : all) {
    const WindowMean& q = f.*quantity;
    sum += q.mean, squares += q.half_interval * q.half_interval;
    w.least = std::min(w.least, q.least), w.most = std::max(w.most, q.most);
  }
  const auto n = static_cast<double>(all.size());
  w.mean = sum / n, w.half_interval = std::sqrt(squares) / n;
  return w;
}

/// The first lattice's figures with means over all; settled if all are.
Figures mean_of(const Lattices& all) {
  Figures f = all.front();
  if (all.size() == 1) return f;
  for (WindowMean Figures::*q :
       {&Figures::cd, &Figures::cl, &Figures::clf, &Figures::clr, &Figures::cy})
    f.*q = mean_of(all, q);
  f.drag = f.lift = f.side = f.seconds = 0;
  const auto n = static_cast<double>(all.size());
  for (const Figures& one : all) {
    f.drag += one.drag / n, f.lift += one.lift / n, f.side += one.side / n;
    f.seconds += one.seconds;
    if (!one.settled()) f.status = one.status, f.why = one.why;
  }
  return f;
}

struct Pair {
  const Figures *run, *base;
};

std::vector<Pair> pairs_of(const Lattices& runs, const Lattices& bases) {
  std::vector<Pair> pairs;
  for (const Figures& run : runs)
    for (const Figures& base : bases)
      if (run.run.lattice == base.run.lattice) pairs.push_back({&run, &base});
  return pairs;
}

/// Mean and uncertainty of a quantity's differences. @param deviation over lattices
Difference difference(const std::vector<Pair>& pairs, WindowMean Figures::*quantity,
                      double deviation, double degrees_of_freedom) {
  std::vector<double> values, histories;
  double sum = 0;
  for (const Pair& p : pairs) {
    const WindowMean &run = p.run->*quantity, &base = p.base->*quantity;
    values.push_back(run.mean - base.mean);
    histories.push_back(std::hypot(run.half_interval, base.half_interval));
    sum += values.back();
  }
  return {sum / static_cast<double>(values.size()),
          half_interval_of_mean(values, histories, deviation, degrees_of_freedom)};
}

void fill(ComparisonRow& row, const Lattices& runs, const Lattices& bases) {
  const std::vector<Pair> pairs = pairs_of(runs, bases);
  row.pairs = static_cast<int>(pairs.size());
  if (pairs.empty()) {
    row.verdict = Verdict::no_baseline;
    return;
  }
  const Figures& base = *pairs.front().base;
  const PairedScatter s = paired_scatter(row.run.run.recipe);
  row.cd = difference(pairs, &Figures::cd, s.drag * std::abs(base.cd.mean), s.degrees_of_freedom);
  row.cl = difference(pairs, &Figures::cl, s.cl, s.degrees_of_freedom);
  row.clf = difference(pairs, &Figures::clf, s.clf, s.degrees_of_freedom);
  row.clr = difference(pairs, &Figures::clr, s.clr, s.degrees_of_freedom);
  const double newtons = newtons_of_cd(base);
  row.drag = {row.cd->value * newtons, row.cd->uncertainty * newtons};
  if (row.run.run.recipe == "sketch")
    row.verdict = Verdict::sketch;
  else if (std::any_of(pairs.begin(), pairs.end(),
                       [](const Pair& p) { return !p.run->settled() || !p.base->settled(); }))
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
    case Verdict::sketch: return "none: only a sketch";
  }
  return "";
}

std::vector<Comparison> compare(const std::vector<Figures>& runs, const std::string& baseline) {
  std::vector<Comparison> out;
  for (const Figures& one : runs) {
    if (std::any_of(out.begin(), out.end(),
                    [&](const Comparison& c) { return c.speed == one.run.speed; }))
      continue;
    Comparison& c = out.emplace_back();
    c.speed = one.run.speed;
    std::vector<std::pair<std::string, Lattices>> variants;
    for (const Figures& run : runs) {
      if (run.run.speed != c.speed) continue;
      auto it = std::find_if(variants.begin(), variants.end(),
                             [&](const auto& v) { return v.first == run.run.variant; });
      if (it == variants.end()) it = variants.insert(variants.end(), {run.run.variant, {}});
      it->second.push_back(run);
    }
    const auto base = std::find_if(variants.begin(), variants.end(),
                                   [&](const auto& v) { return v.first == baseline; });
    if (base != variants.end()) c.baseline = mean_of(base->second);
    for (const auto& [name, lattices] : variants) {
      ComparisonRow& row = c.rows.emplace_back();
      row.run = mean_of(lattices), row.lattices = static_cast<int>(lattices.size());
      if (name == baseline) continue;
      if (c.baseline)
        fill(row, lattices, base->second);
      else
        row.verdict = Verdict::no_baseline;
    }
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
  if (run.run.lattice != base.run.lattice)
    refuse(
        fmt::format("they stand on lattices {} and {}", base.run.lattice + 1, run.run.lattice + 1));
  ComparisonRow row;
  row.run = run;
  fill(row, {run}, {base});
  return fmt::format("{} against {}: drag {:+.1f} ± {:.1f} N ({:+.1f} ± {:.1f} %), {}",
                     run.run.variant, base.run.variant, row.drag->value, row.drag->uncertainty,
                     100 * row.drag->value / base.drag, 100 * row.drag->uncertainty / base.drag,
                     words(row.verdict));
}

}  // namespace dunefield
