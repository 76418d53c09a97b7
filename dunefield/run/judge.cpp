#include <dunefield/run/judge.hpp>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <span>

#include <fmt/format.h>

#include <dunefield/run/rest.hpp>

namespace dunefield {
namespace {

// before a mean is believed: of a flow from the stream, of one from another result
constexpr std::size_t least_from_stream = 150;
// The intervals of shorter windows hold less often than they claim (bench/judging). Where 2 % are
// enough, as for a sketch, fewer will do.
constexpr std::size_t least_window = 150, least_rough_window = 100;
constexpr double rough = 0.02;
constexpr double residual_drop = 0.2;  // of the largest of the first iterations
// behind which a flow from the stream, from another result, swings as it will go on to
constexpr std::size_t developed_from_stream = 150, developed_from_another = 50;

using Series = std::vector<double>;
using Rows = std::span<const HistoryRow>;

/// The rows that means are taken over, those that show how much the developed flow swings, and the
/// period of CD.
struct Window {
  Rows counted, developed;
  double period = 0;
  /// Whether the swings are so much alike that their means over whole periods are values of their
  /// own: others, whose levels wander, only look so over a few periods (bench/judging).
  bool alike = false;
};

std::size_t least_window_for(const AccuracyWanted& accuracy) {
  return accuracy.drag < rough ? least_window : least_rough_window;
}

Series series(Rows rows, double (*value)(const HistoryRow&)) {
  Series s;
  for (const HistoryRow& row : rows) s.push_back(value(row));
  return s;
}

/// Values to cut off the front so that the standard error of the mean of the rest is least, as
/// batches of five.
std::size_t start_up(const Series& s, std::size_t most) {
  constexpr std::size_t batch = 5;
  const std::size_t n = s.size() / batch;
  Series means(n);
  for (std::size_t b = 0; b < n; ++b)
    for (std::size_t i = 0; i < batch; ++i) means[b] += s[s.size() - (n - b) * batch + i] / batch;
  double sum = 0, squares = 0, least = 1e300;
  std::size_t best = 0;
  for (std::size_t b = n; b-- > 0;) {
    sum += means[b], squares += means[b] * means[b];
    const double count = static_cast<double>(n - b),
                 variance = std::max(0.0, squares / count - sum * sum / (count * count));
    if (b * batch <= most && count > 1 && variance / count < least)
      least = variance / count, best = b;
  }
  return best * batch;
}

struct Quantity {
  const char* name;
  double (*value)(const HistoryRow&);
  WindowMean mean{};
  double drift = 0;   ///< between the means of the window's halves
  double wanted = 0;  ///< for interval and drift
};

enum class Force { drag, across };

/// Iterations that count as one value, at least: 7 to 110 on histories of 900 and more of the demo
/// vehicles, lifts the longest; shorter ones show less. Of drag an eighth of the window between two
/// bounds: where it is short, Student's t is caution enough. With them 96 to 100 % of the van's
/// intervals hold, fewer where a flow changes from one state to another (bench/judging).
double least_memory(Force force, Rows rows) {
  constexpr double of_drag_in_short = 23, of_drag_in_long = 28, share = 1.0 / 8, of_lift = 40,
                   steps_in_time = 30;
  if (!rows.empty() && rows.back().time > 0) return steps_in_time;
  if (force == Force::across) return of_lift;
  return std::clamp(share * static_cast<double>(rows.size()), of_drag_in_short, of_drag_in_long);
}

/// Of a series that swings with a clear period the means over whole periods count as its values:
/// the swing itself makes no mean uncertain. Least, most and count are those of the series.
WindowMean mean_of_swings(const Series& values, double period, double least_memory) {
  const WindowMean plain = window_mean(values, least_memory);
  const auto n = static_cast<double>(values.size());
  if (!(period > 1)) return plain;
  const auto periods = static_cast<std::size_t>(n / period);
  Series means;
  for (std::size_t i = 0; i < periods; ++i) {
    const auto from = static_cast<std::size_t>(n - static_cast<double>(periods - i) * period),
               to = static_cast<std::size_t>(n - static_cast<double>(periods - i - 1) * period);
    means.push_back(window_mean(std::span(values).subspan(from, to - from)).mean);
  }
  WindowMean w = window_mean(means, std::max(1.0, least_memory / period));
  w.mean = plain.mean, w.least = plain.least, w.most = plain.most, w.count = plain.count;
  w.memory *= period;
  return w;
}

/// The mean of the rows that count. Where they lie in a calm stretch, its interval is that of rows
/// that swing as the developed flow does.
WindowMean mean_of(const Window& w, Force force, const auto& series_of) {
  const auto of = [&](Rows rows) {
    return mean_of_swings(series_of(rows), w.alike ? w.period : 0, least_memory(force, rows));
  };
  WindowMean mean = of(w.counted);
  if (const double all = of(w.developed).deviation; mean.deviation > 0 && all > mean.deviation)
    mean.half_interval *= all / mean.deviation;
  return mean;
}

/// CD, CLF and CLR.
std::vector<Quantity> measured(const Window& w, const AccuracyWanted& accuracy) {
  std::vector<Quantity> all = {{"CD", [](const HistoryRow& r) { return r.c.cd; }},
                               {"CLF", [](const HistoryRow& r) { return r.c.clf(); }},
                               {"CLR", [](const HistoryRow& r) { return r.c.clr(); }}};
  for (Quantity& q : all) {
    const Series values = series(w.counted, q.value);
    const std::span<const double> window(values);
    const std::size_t half = window.size() / 2;
    q.mean = mean_of(w, &q == &all[0] ? Force::drag : Force::across,
                     [&](Rows rows) { return series(rows, q.value); });
    q.drift = window_mean(window.last(half)).mean - window_mean(window.first(half)).mean;
    q.wanted =
        &q == &all[0] ? accuracy.of_drag(all[0].mean.mean) : accuracy.of_lift(all[0].mean.mean);
  }
  return all;
}

/// Iterations from one peak to the next: the first peak of the autocorrelation behind its first
/// zero. 0 if there is none.
/// @param alike whether one swing is nearly as the one before
double period_of(std::span<const double> v, bool& alike) {
  const double mean = window_mean(v).mean;
  const auto correlation = [&](std::size_t lag) {
    double sum = 0;
    for (std::size_t i = 0; i + lag < v.size(); ++i) sum += (v[i] - mean) * (v[i + lag] - mean);
    return sum / static_cast<double>(v.size() - lag);
  };
  std::size_t lag = 1;
  const std::size_t longest = v.size() / 5;  // fewer periods than five may be chance
  while (lag < longest && correlation(lag) > 0) ++lag;
  Series peaks;  // from the first zero on
  for (std::size_t i = lag; i < longest; ++i) peaks.push_back(correlation(i));
  const double best = peaks.empty() ? 0 : *std::max_element(peaks.begin(), peaks.end());
  constexpr double clear = 0.3, nearly_the_same = 0.7, as_high = 0.9;  // of no lag; of the highest
  if (!(best > clear * correlation(0))) return 0;
  alike = best > nearly_the_same * correlation(0);
  std::size_t first = 0;  // whole multiples of a period are peaks as high but for chance
  while (peaks[first] < as_high * best) ++first;
  while (first + 1 < peaks.size() && peaks[first + 1] > peaks[first]) ++first;
  return static_cast<double>(lag + first);
}

/// The window cut to whole periods: parts of one would pass for a drift.
std::size_t whole_periods(std::size_t window, double period, std::size_t least) {
  if (!(period > 0)) return window;
  const auto cut =
      static_cast<std::size_t>(std::floor(static_cast<double>(window) / period) * period);
  return cut >= least ? cut : window;
}

/// What the stream loses beyond the drag, as a coefficient.
Series surplus_of(Rows rows, const ReferenceValues& reference) {
  Series s;
  for (const HistoryRow& row : rows)
    s.push_back(row.momentum_drag / (reference.dynamic_pressure() * reference.frontal_area) -
                row.c.cd);
  return s;
}

/// A swinging flow stores momentum and gives it back: drag and what the stream loses differ by
/// chance. What is beyond that, or beyond what the interval of CD holds, is added to it: an
/// iteration that swings need not conserve momentum over its periods, and a flow that has not
/// developed everywhere does not.
double lasting_surplus(const WindowMean& surplus, const Quantity& cd) {
  const double differ = std::abs(surplus.mean),
               by_chance = std::min(surplus.half_interval, cd.mean.half_interval);
  return differ > std::max(momentum_agreement * std::abs(cd.mean.mean), by_chance) ? differ : 0;
}

/// What keeps the means from being trusted, or nothing.
std::string doubt(const std::vector<HistoryRow>& h, const std::vector<Quantity>& quantities,
                  const WindowMean& surplus, const AccuracyWanted& accuracy, bool warm) {
  if (h.size() < (warm ? least_window_for(accuracy) : least_from_stream))
    return fmt::format("{} iterations are too few to judge", h.size());
  for (const Quantity& q : quantities) {
    if (std::abs(q.drift) > q.wanted)
      return fmt::format("{} still drifts: by {:+.4f} over the last {} iterations", q.name, q.drift,
                         q.mean.count);
    if (q.mean.half_interval > q.wanted)
      return fmt::format("the mean of {} is known to {:.5f} only, {:.5f} is asked for", q.name,
                         q.mean.half_interval, q.wanted);
  }
  if (quantities[0].mean.half_interval + lasting_surplus(surplus, quantities[0]) >
      quantities[0].wanted)
    return fmt::format("drag and the stream's loss of momentum still differ by {:.2f} %",
                       100 * std::abs(surplus.mean / quantities[0].mean.mean));
  if (warm) return {};
  double first = 0, last = 0;
  for (std::size_t i = 0; i < 20; ++i)
    first = std::max(first, h[i].momentum_residual),
    last += h[h.size() - 20 + i].momentum_residual / 20;
  if (last > residual_drop * first)
    return fmt::format("the residual has fallen to {:.2f} of its start only", last / first);
  return {};
}

/// The start-up that is cut off is that of the flow, or at most a quarter: where half might go, the
/// calm end of a history would pass for all of it. Of a flow in time half may be start-up, and the
/// rest is all that tells of it.
/// @param h without those of a recombination
Window window_of(Rows h, std::size_t least, bool warm, bool in_time) {
  const std::size_t begins = warm ? developed_from_another : developed_from_stream,
                    most = in_time ? h.size() / 2 : std::max(begins, h.size() / 4);
  const auto start_up_of = [&](double (*value)(const HistoryRow&)) {
    return start_up(series(h, value), most);
  };
  const std::size_t from = std::max({start_up_of([](const HistoryRow& r) { return r.c.cd; }),
                                     start_up_of([](const HistoryRow& r) { return r.c.clf(); }),
                                     start_up_of([](const HistoryRow& r) { return r.c.clr(); })});
  Window w;
  w.counted = h.subspan(std::min(from, h.size() - std::min(h.size(), least)));
  w.period = period_of(series(w.counted, [](const HistoryRow& r) { return r.c.cd; }), w.alike);
  w.counted = w.counted.last(whole_periods(w.counted.size(), w.period, least));
  w.developed = in_time
                    ? w.counted
                    : h.last(std::max(w.counted.size(), h.size() - std::min(begins, h.size() / 2)));
  return w;
}

/// A flow that comes to rest by itself needs no mean of what is left of its swings.
bool still_calms_down(Rows rows, const WindowMean& cd) {
  constexpr double calm = 0.002;  // of CD, either way
  constexpr double falling = 0.7;
  constexpr std::size_t ago = 50;
  return 0.5 * (cd.most - cd.least) < calm * std::abs(cd.mean) && rows.size() > ago &&
         rows.back().change < falling * rows[rows.size() - ago].change;
}

/// How a settled flow swings.
/// @param lasting difference of drag and the stream's loss of momentum, as a coefficient
std::string swings_in_words(const Convergence& c, Rows rows, double lasting) {
  std::string words = fmt::format("CD varies between {:.4f} and {:.4f}", c.cd.least, c.cd.most);
  if (const double time = rows.back().time - rows.front().time; c.period > 0 && time > 0)
    words +=
        fmt::format(", every {:.4g} s", c.period * time / static_cast<double>(rows.size() - 1));
  else if (c.period > 0)
    words += fmt::format(", every {:.0f} iterations or so", c.period);
  if (lasting > 0)
    words += fmt::format(
        "; drag and the stream's loss of momentum differ by {:.2f} %, which its interval holds",
        100 * lasting / std::abs(c.cd.mean));
  return words;
}

}  // namespace

std::vector<HistoryRow> plain_rows(const std::vector<HistoryRow>& h) {
  std::vector<HistoryRow> plain;
  std::copy_if(h.begin(), h.end(), std::back_inserter(plain),
               [](const HistoryRow& row) { return !row.recombined; });
  return plain.empty() ? h : plain;
}

Convergence judge(const std::vector<HistoryRow>& all, const ReferenceValues& reference,
                  const AccuracyWanted& accuracy, bool started_warm) {
  Convergence out;
  if (all.empty()) return out;
  // Of a flow in time only what lies behind its steady start counts.
  const bool in_time = all.back().time > 0;
  const std::vector<HistoryRow> h(
      in_time ? std::find_if(all.begin(), all.end(), [](const auto& r) { return r.time > 0; })
              : all.begin(),
      all.end());
  const bool warm = started_warm || in_time;
  const std::vector<HistoryRow> plain = plain_rows(h);
  const Window window = window_of(plain, least_window_for(accuracy), warm, in_time);
  const Rows rows = window.counted;
  out.period = window.period;
  const std::vector<Quantity> q = measured(window, accuracy);
  const auto mean = [&](Force force, double (*value)(const HistoryRow&)) {
    return mean_of(window, force, [&](Rows r) { return series(r, value); });
  };
  out.window_from = rows.front().iteration;
  out.cd = q[0].mean, out.clf = q[1].mean, out.clr = q[2].mean;
  out.cl = mean(Force::across, [](const HistoryRow& r) { return r.c.cl; });
  out.cy = mean(Force::across, [](const HistoryRow& r) { return r.c.cy; });
  out.momentum_drag = mean(Force::drag, [](const HistoryRow& r) { return r.momentum_drag; });
  const Rest rest = rest_of(h, reference, accuracy, warm);
  if (!in_time && rest.doubt.empty()) {
    out.status = RunStatus::steady, out.window_from = rest.from;
    for (const auto& [mean, at_rest] : {std::pair{&out.cd, &rest.cd},
                                        {&out.cl, &rest.cl},
                                        {&out.clf, &rest.clf},
                                        {&out.clr, &rest.clr},
                                        {&out.cy, &rest.cy},
                                        {&out.momentum_drag, &rest.momentum_drag}})
      *mean = *at_rest;
    out.period = 0;
    return out;
  }
  WindowMean surplus;
  if (!in_time)
    surplus = mean_of(window, Force::drag, [&](Rows r) { return surplus_of(r, reference); });
  if (!in_time && (h.back().recombined || still_calms_down(rows, out.cd)))
    out.why = "still converging, allow more iterations: " + rest.doubt;
  else
    out.why = doubt(plain, q, surplus, accuracy, warm);
  if (!out.why.empty()) return out;
  const double lasting = lasting_surplus(surplus, q[0]);
  out.cd.half_interval += lasting;
  out.status = RunStatus::fluctuating;
  out.why = swings_in_words(out, h, lasting);
  return out;
}

bool swings_by_itself(const Convergence& c, const ReferenceValues& reference,
                      const AccuracyWanted& accuracy) {
  const double wanted = accuracy.of_drag(c.cd.mean),
               lost =
                   c.momentum_drag.mean / (reference.dynamic_pressure() * reference.frontal_area),
               differ = std::abs(lost - c.cd.mean);
  return !c.settled() && c.period > 0 && c.cd.half_interval < wanted &&
         differ > momentum_agreement * std::abs(c.cd.mean) && c.cd.half_interval + differ > wanted;
}

double iterations_for(const WindowMean& mean, double half_interval) {
  if (!(mean.memory > 0) || mean.count < 2 * mean.memory)
    return mean.half_interval > half_interval ? 1e300 : mean.count;
  // The interval goes with the root of the number, and Student's t to its limit of two.
  const double t = student_t(mean.count / mean.memory - 1);
  return mean.count * std::pow(mean.half_interval / half_interval * 2 / t, 2);
}

}  // namespace dunefield
