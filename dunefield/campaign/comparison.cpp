#include <dunefield/campaign/comparison.hpp>

#include <algorithm>
#include <set>
#include <utility>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/run_matrix.hpp>

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

/// Less of it is better: of drag as of lift.
Verdict of(const Difference& d) {
  return d.within_noise() ? Verdict::within_noise : d.value < 0 ? Verdict::better : Verdict::worse;
}

void fill(ComparisonRow& row, const Lattices& runs, const Lattices& bases) {
  const std::vector<Pair> pairs = pairs_of(runs, bases);
  row.pairs = static_cast<int>(pairs.size());
  if (pairs.empty()) {
    row.verdict = Verdict::no_baseline;
    return;
  }
  const Figures& base = *pairs.front().base;
  const PairedScatter s = paired_scatter(row.run.run, base.run);
  row.cd = difference(pairs, &Figures::cd, s.drag * std::abs(base.cd.mean), s.degrees_of_freedom);
  row.cl = difference(pairs, &Figures::cl, s.cl, s.degrees_of_lifts);
  row.clf = difference(pairs, &Figures::clf, s.clf, s.degrees_of_lifts);
  row.clr = difference(pairs, &Figures::clr, s.clr, s.degrees_of_lifts);
  const double newtons = newtons_of_cd(base);
  row.drag = {row.cd->value * newtons, row.cd->uncertainty * newtons};
  if (row.run.run.recipe == "sketch")
    row.verdict = Verdict::sketch;
  else if (std::any_of(pairs.begin(), pairs.end(),
                       [](const Pair& p) { return !p.run->settled() || !p.base->settled(); }))
    row.verdict = Verdict::not_settled;
  else
    row.verdict = of(*row.drag), row.front = of(*row.clf), row.rear = of(*row.clr);
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

std::vector<PartDifference> by_part(const Figures& run, const Figures& baseline) {
  std::vector<PartDifference> parts;
  const auto add = [&](const Figures& of, double sign) {
    for (const PartMean& p : of.parts) {
      auto it = std::find_if(parts.begin(), parts.end(),
                             [&](const PartDifference& d) { return d.part == p.part; });
      if (it == parts.end()) it = parts.insert(parts.end(), {p.part});
      it->cd += sign * p.cd, it->cl += sign * p.cl;
    }
  };
  add(run, 1), add(baseline, -1);
  // Parts that a half model has no faces of change nothing.
  std::erase_if(parts, [](const PartDifference& d) { return d.cd == 0 && d.cl == 0; });
  std::stable_sort(parts.begin(), parts.end(),
                   [](const PartDifference& a, const PartDifference& b) {
                     return std::abs(a.cd) > std::abs(b.cd);
                   });
  return parts;
}

bool add_want(Wants& w, const std::string& text) {
  if (text == "less drag") return w.less_drag = true;
  if (text == "more drag") return w.more_drag = true;
  if (text == "more downforce") return w.more_downforce = true;
  if (text == "less downforce") return w.less_downforce = true;
  return false;
}

std::string verdict_in_words(const ComparisonRow& row, const Wants& wants) {
  const bool told = row.verdict == Verdict::better || row.verdict == Verdict::worse ||
                    row.verdict == Verdict::within_noise;
  const bool drag = wants.less_drag || wants.more_drag,
             downforce = wants.more_downforce || wants.less_downforce;
  if (!told || (!downforce && wants.less_drag)) return words(row.verdict);
  std::vector<std::string> parts;
  int good = 0, bad = 0;
  const auto judge_one = [&](Verdict v, bool less_is_wanted, const std::string& less,
                             const std::string& more, const std::string& neither) {
    if (v == Verdict::within_noise) return parts.push_back(neither);
    parts.push_back(v == Verdict::better ? less : more);
    ++((v == Verdict::better) == less_is_wanted ? good : bad);
  };
  if (drag)
    judge_one(row.verdict, wants.less_drag, "less drag", "more drag", "drag within the noise");
  if (downforce) {
    judge_one(row.front, wants.more_downforce, "more downforce in front", "less downforce in front",
              "downforce in front within the noise");
    judge_one(row.rear, wants.more_downforce, "more at the rear", "less at the rear",
              "at the rear within the noise");
  }
  return fmt::format("{}: {}", fmt::join(parts, ", "),
                     good && bad ? "a trade"
                     : good      ? "better"
                     : bad       ? "worse"
                                 : "within the noise");
}

namespace {

/// Keys that the baseline has settings of; without a baseline those of any.
std::set<std::string> shared_keys(const std::vector<Figures>& runs, const std::string& baseline) {
  std::set<std::string> keys, of_any;
  bool there = false;
  for (const Figures& f : runs)
    for (const Setting& s : f.run.settings) {
      of_any.insert(s.key);
      if (f.run.variant == baseline) keys.insert(s.key);
    }
  for (const Figures& f : runs) there = there || f.run.variant == baseline;
  return there ? keys : of_any;
}

/// The name of a variant with the settings that are its own: "flat flap, change.1.turn 4 deg".
std::string name_with(const RunIdentity& run, const std::set<std::string>& shared) {
  std::string name = run.variant;
  for (const Setting& s : run.settings) {
    if (shared.count(s.key)) continue;
    const std::string own = "variant." + run.variant + ".";
    name +=
        fmt::format(", {} {}", s.key.starts_with(own) ? s.key.substr(own.size()) : s.key, s.value);
  }
  return name;
}

Settings only(const Settings& all, const std::set<std::string>& keys) {
  Settings out;
  for (const Setting& s : all)
    if (keys.count(s.key)) out.push_back(s);
  return out;
}

struct Variant {
  std::string name, shown;
  Lattices lattices;
};

void compare_group(Comparison& c, const std::vector<Variant>& variants,
                   const std::string& baseline) {
  const auto base = std::find_if(variants.begin(), variants.end(),
                                 [&](const Variant& v) { return v.name == baseline; });
  if (base != variants.end()) c.baseline = mean_of(base->lattices);
  for (const Variant& v : variants) {
    ComparisonRow& row = c.rows.emplace_back();
    row.run = mean_of(v.lattices), row.lattices = static_cast<int>(v.lattices.size());
    row.run.run.variant = v.shown;
    if (v.name == baseline) continue;
    if (c.baseline)
      fill(row, v.lattices, base->lattices);
    else
      row.verdict = Verdict::no_baseline;
  }
}

}  // namespace

std::vector<Comparison> compare(const std::vector<Figures>& runs, const std::string& baseline) {
  const std::set<std::string> shared = shared_keys(runs, baseline);
  std::vector<Comparison> out;
  std::vector<std::vector<Variant>> groups;
  for (const Figures& run : runs) {
    const Settings settings = only(run.run.settings, shared);
    auto c = std::find_if(out.begin(), out.end(), [&](const Comparison& one) {
      return one.speed == run.run.speed && one.settings == settings;
    });
    if (c == out.end()) {
      c = out.insert(out.end(), {run.run.speed, settings, {}, {}});
      groups.emplace_back();
    }
    auto& variants = groups[static_cast<std::size_t>(c - out.begin())];
    const std::string shown = name_with(run.run, shared);
    auto v = std::find_if(variants.begin(), variants.end(),
                          [&](const Variant& one) { return one.shown == shown; });
    if (v == variants.end()) v = variants.insert(v, {run.run.variant, shown, {}});
    v->lattices.push_back(run);
  }
  for (std::size_t i = 0; i < out.size(); ++i) compare_group(out[i], groups[i], baseline);
  return out;
}

std::string conditions_in_words(double speed, const Settings& settings, const DisplayUnits& units) {
  const std::string others = in_words(settings);
  return units.speed_text(speed) + (others.empty() ? "" : ", ") + others;
}

void check_comparable(const Figures& base, const Figures& run) {
  const auto refuse = [&](const std::string& what) {
    throw InputError("the runs cannot be compared: " + what,
                     base.run.variant + " and " + run.run.variant, "compare like with like");
  };
  if (std::abs(run.run.speed / base.run.speed - 1) > 1e-9) refuse("their speeds differ");
  if (run.run.yaw != base.run.yaw) refuse("their yaw differs");
  if (run.run.recipe != base.run.recipe) refuse("their recipes differ");
  if (run.run.layers != base.run.layers) refuse("their wall layers differ");
  if (run.run.settings != base.run.settings && run.run.variant == base.run.variant)
    refuse("their settings differ");
  if (run.run.half != base.run.half) refuse("one is a half model");
  if (run.run.lattice != base.run.lattice)
    refuse(
        fmt::format("they stand on lattices {} and {}", base.run.lattice + 1, run.run.lattice + 1));
}

std::string compared_briefly(const Record& baseline, const Record& other) {
  const Figures base = baseline.figures(), run = other.figures();
  check_comparable(base, run);
  ComparisonRow row;
  row.run = run;
  fill(row, {run}, {base});
  return fmt::format("{} against {}: drag {:+.1f} ± {:.1f} N ({:+.1f} ± {:.1f} %), {}",
                     run.run.variant, base.run.variant, row.drag->value, row.drag->uncertainty,
                     100 * row.drag->value / base.drag, 100 * row.drag->uncertainty / base.drag,
                     words(row.verdict));
}

}  // namespace dunefield
