#include <dunefield/run/judge.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace dunefield {
namespace {

constexpr std::size_t least_iterations = 150, least_window = 60;
// of CD: in a steady state the stream loses the momentum that the vehicle takes, in a swinging one
// only in the mean
constexpr double momentum_agreement = 0.001;
constexpr double residual_drop = 0.2;  // of the largest of the first iterations
// swings up to these still count as steady; of CD, and in CLF and CLR
constexpr double steady_drag = 0.01, steady_lift = 0.01;

/// A run stops as soon as its intervals are narrow, which picks narrow ones: they are widened by
/// this, by which 97 % of a van's hold (docs/method.md).
constexpr double stopping_bias = 2;

using Series = std::vector<double>;

Series series(const std::vector<HistoryRow>& h, double (*value)(const HistoryRow&)) {
  Series s;
  for (const HistoryRow& row : h) s.push_back(value(row));
  return s;
}

/// Values to cut off the front so that the standard error of the mean of the rest is least, as
/// batches of five; at most half.
std::size_t start_up(const Series& s) {
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
    if (2 * b <= n && count > 1 && variance / count < least) least = variance / count, best = b;
  }
  return best * batch;
}

struct Quantity {
  const char* name;
  WindowMean mean;
  double drift = 0;   ///< between the means of the window's halves
  double wanted = 0;  ///< for interval and drift
  double swing() const { return 0.5 * (mean.most - mean.least); }
};

Quantity measured(const char* name, const Series& s, std::size_t from, double period,
                  double wanted = 0) {
  const std::span<const double> window(s.begin() + static_cast<std::ptrdiff_t>(from), s.end());
  const std::size_t half = window.size() / 2;
  Quantity q{name, window_mean(window, period),
             window_mean(window.last(half)).mean - window_mean(window.first(half)).mean, wanted};
  q.mean.half_interval *= stopping_bias;
  return q;
}

/// Iterations from one peak to the next: the first peak of the autocorrelation behind its first
/// zero.
double period_of(std::span<const double> v) {
  const double mean = window_mean(v).mean;
  const auto correlation = [&](std::size_t lag) {
    double sum = 0;
    for (std::size_t i = 0; i + lag < v.size(); ++i) sum += (v[i] - mean) * (v[i + lag] - mean);
    return sum / static_cast<double>(v.size() - lag);
  };
  std::size_t lag = 1;
  while (lag < v.size() / 2 && correlation(lag) > 0) ++lag;
  const std::size_t zero = lag;
  double best = 0;
  for (std::size_t i = zero; i < v.size() / 2; ++i)
    if (const double c = correlation(i); c > best) best = c, lag = i;
  constexpr double clear = 0.3;
  return best > clear * correlation(0) ? static_cast<double>(lag) : 0;
}

/// The window cut to whole periods: parts of one would pass for a drift.
std::size_t whole_periods(std::size_t window, double period) {
  if (!(period > 0)) return window;
  const auto cut =
      static_cast<std::size_t>(std::floor(static_cast<double>(window) / period) * period);
  return cut >= least_window ? cut : window;
}

/// What keeps the means from being trusted, or nothing. `surplus` is what the stream loses beyond
/// the drag, as a coefficient.
std::string doubt(const std::vector<HistoryRow>& h, const std::vector<Quantity>& quantities,
                  const WindowMean& surplus, const AccuracyWanted& accuracy, bool warm) {
  if (h.size() < least_iterations)
    return fmt::format("{} iterations are too few to judge", h.size());
  for (const Quantity& q : quantities) {
    if (std::abs(q.drift) > q.wanted)
      return fmt::format("{} still drifts: by {:+.4f} over the last {} iterations", q.name, q.drift,
                         q.mean.count);
    if (q.mean.half_interval > q.wanted)
      return fmt::format("the mean of {} is known to {:.5f} only, {:.5f} is asked for", q.name,
                         q.mean.half_interval, q.wanted);
  }
  // A swinging flow stores momentum and gives it back: the means differ by chance, but by no more
  // than the accuracy asked for.
  const double cd = std::abs(quantities[0].mean.mean);
  if (std::abs(surplus.mean) >
      std::max(momentum_agreement * cd, std::min(surplus.half_interval, accuracy.drag * cd)))
    return fmt::format("drag and the stream's loss of momentum still differ by {:.2f} %",
                       100 * std::abs(surplus.mean) / cd);
  if (warm) return {};
  double first = 0, last = 0;
  for (std::size_t i = 0; i < 20; ++i)
    first = std::max(first, h[i].momentum_residual),
    last += h[h.size() - 20 + i].momentum_residual / 20;
  if (last > residual_drop * first)
    return fmt::format("the residual has fallen to {:.2f} of its start only", last / first);
  return {};
}

}  // namespace

Convergence judge(const std::vector<HistoryRow>& h, const ReferenceValues& reference,
                  const AccuracyWanted& accuracy, bool warm) {
  Convergence out;
  if (h.empty()) return out;
  const Series cd = series(h, [](const HistoryRow&r) { return r.c.cd; }),
               cl = series(h, [](const HistoryRow&r) { return r.c.cl; }),
               clf = series(h, [](const HistoryRow&r) { return r.c.clf(); }),
               clr = series(h, [](const HistoryRow&r) { return r.c.clr(); }),
               cy = series(h, [](const HistoryRow&r) { return r.c.cy; }),
               momentum = series(h, [](const HistoryRow&r) { return r.momentum_drag; });
  const std::size_t latest = h.size() > least_window ? h.size() - least_window : 0;
  std::size_t from = std::min(latest, std::max({start_up(cd), start_up(clf), start_up(clr)}));
  out.period = period_of(std::span(cd).subspan(from));
  from = h.size() - whole_periods(h.size() - from, out.period);
  out.window_from = h[from].iteration;
  // periods in the window: fewer may be chance, and would leave no batches
  constexpr double sure = 5;
  const double period = sure * out.period <= static_cast<double>(h.size() - from) ? out.period : 0;
  std::vector<Quantity> q = {measured("CD", cd, from, period),
                             measured("CLF", clf, from, period, accuracy.lift),
                             measured("CLR", clr, from, period, accuracy.lift)};
  q[0].wanted = accuracy.drag * std::abs(q[0].mean.mean);
  out.cd = q[0].mean, out.clf = q[1].mean, out.clr = q[2].mean;
  out.cl = measured("CL", cl, from, period).mean, out.cy = measured("CY", cy, from, period).mean,
  out.momentum_drag = measured("drag", momentum, from, period).mean;
  Series surplus;
  for (const HistoryRow& row : h)
    surplus.push_back(row.momentum_drag / (reference.dynamic_pressure() * reference.frontal_area) -
                      row.c.cd);
  out.why = doubt(h, q, measured("surplus", surplus, from, period).mean, accuracy, warm);
  if (!out.why.empty()) return out;
  if (q[0].swing() <= steady_drag * std::abs(out.cd.mean) && q[1].swing() <= steady_lift &&
      q[2].swing() <= steady_lift)
    return out.status = RunStatus::steady, out;
  out.status = RunStatus::fluctuating;
  out.why = fmt::format("CD swings between {:.4f} and {:.4f}", out.cd.least, out.cd.most);
  if (out.period > 0) out.why += fmt::format(", every {:.0f} iterations or so", out.period);
  return out;
}

}  // namespace dunefield
