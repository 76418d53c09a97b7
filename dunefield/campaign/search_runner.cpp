#include <dunefield/campaign/search_runner.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/run_store.hpp>

namespace dunefield {
namespace {

constexpr double interval_over_deviation = 1.96;  // of 95 %

/// With intervals of all that the search has to see through: of the history, and of where the cells
/// happen to lie.
Figures with_scatter(Figures f) {
  const PairedScatter s = paired_scatter(f.run);
  const auto widen = [](WindowMean& w, double deviation) {
    w.half_interval = std::hypot(w.half_interval, interval_over_deviation * deviation);
  };
  widen(f.cd, s.drag * std::abs(f.cd.mean)), widen(f.clf, s.clf), widen(f.clr, s.clr);
  return f;
}

Noisy noisy(const DerivedFigure& d) { return {d.value, d.half_interval / interval_over_deviation}; }

Search::Tried tried(const SearchTask& task, const SearchRun& run, std::vector<double> point) {
  Search::Tried t;
  t.point = std::move(point), t.failed = run.failed;
  if (run.failed) return t;
  t.goal = noisy(run.goal);
  if (task.most) t.goal.value = -t.goal.value;
  for (std::size_t i = 0; i < task.limits.size(); ++i) {
    const SearchLimit& l = task.limits[i];
    Noisy n = noisy(run.limits[i]);
    n.value = l.most ? n.value - l.value : l.value - n.value;
    t.limits.push_back(n);
  }
  return t;
}

/// The point as it is run: values have few digits.
std::vector<double> rounded(const SearchTask& task, const std::vector<double>& point) {
  std::vector<double> out = point;
  for (std::size_t i = 0; i < point.size(); ++i) {
    const SearchKey& k = task.keys[i];
    const double value = std::strtod(k.at(point[i]).value.c_str(), nullptr);
    out[i] = std::clamp((value - k.from) / (k.to - k.from), 0.0, 1.0);
  }
  return out;
}

}  // namespace

Setting SearchKey::at(double share) const {
  const double step = std::pow(10, std::floor(std::log10(to - from)) - 3);
  const double value = std::clamp(std::round((from + share * (to - from)) / step) * step, from, to);
  return {key, fmt::format("{:.6g}{}{}", std::abs(value) < step / 2 ? 0.0 : value,
                           unit.empty() ? "" : " ", unit)};
}

SearchResult run_search(const CampaignSetup& given, const std::filesystem::path& folder,
                        const Ranks& ranks, CampaignWatcher& watcher, const Progress& progress) {
  CampaignSetup setup = given;
  Campaign& c = setup.campaign;
  if (!c.search)
    throw InputError("has no [search]", c.file.string(),
                     "say what may change, like [search.keys] \"ride.front\" = [\"-10 mm\", \"10 "
                     "mm\"]");
  const SearchTask& task = *c.search;
  const std::string where = c.file.string();
  const auto variant = static_cast<std::size_t>(
      std::find_if(c.variants.begin(), c.variants.end(),
                   [&](const Campaign::Variant& v) { return v.name == task.variant; }) -
      c.variants.begin());
  Search search(task.keys.size(), task.limits.size(), task.runs);
  SearchResult result;
  while (const auto asked = search.next()) {
    const std::vector<double> point = rounded(task, *asked);
    SearchRun& run = result.runs.emplace_back();
    run.settings = given.campaign.settings.front();
    for (std::size_t i = 0; i < task.keys.size(); ++i)
      run.settings.push_back(task.keys[i].at(point[i]));
    if (result.runs.size() == 1)
      parse_campaign(c.text, c.file, run.settings);  // a wrong key ends it at once
    c.settings.push_back(run.settings);
    const MatrixRun which{variant, c.speeds.front(), c.settings.size() - 1};
    const CampaignResult one = run_campaign(setup, folder, ranks, watcher, progress, {which});
    if (one.stopped || one.elsewhere > 0) {
      result.stopped = one.stopped;
      result.why = one.stopped ? "it was stopped" : "another process is computing its next run";
      result.runs.pop_back();
      break;
    }
    run.failed = ranks.agreed(one.failures > 0);
    if (!run.failed) {  // read by all ranks, so that they ask alike
      run.figures = read_figures(folder / run_name(setup, which));
      const Figures uncertain = with_scatter(run.figures);
      run.goal = derived(uncertain, task.goal, where);
      run.within_limits = true;
      for (const SearchLimit& l : task.limits) {
        run.limits.push_back(derived(uncertain, l.figure, where));
        const double v = run.limits.back().value;
        run.within_limits = run.within_limits && (l.most ? v <= l.value : v >= l.value);
      }
      c.start_run = folder / run_name(setup, which);
    }
    search.tell(tried(task, run, point));
  }
  if (result.why.empty()) result.why = search.why();
  result.best = search.best();
  if (result.best) {
    result.goal = task.most ? -result.best->value : result.best->value;
    result.half_interval = interval_over_deviation * result.best->deviation;
  }
  return result;
}

}  // namespace dunefield
