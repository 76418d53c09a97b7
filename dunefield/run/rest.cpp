#include <dunefield/run/rest.hpp>

#include <algorithm>
#include <cmath>
#include <span>
#include <tuple>

#include <fmt/format.h>

namespace dunefield {
namespace {

constexpr std::size_t last_few = 10, watched = 100;
// iterations after which a flow counts as developed: from the stream, and from another result
constexpr std::size_t from_stream = 100, from_another = 20;
constexpr double fall = 0.02;     // of the change of the developed flow
constexpr double nothing = 1e-7;  // a change so small is none, whatever it was before
// A flow that is at rest before it would be developed: its change all along what is watched, as a
// share of the largest behind the first iterations.
constexpr double early_fall = 0.01;
constexpr std::size_t first_of_stream = 30, first_of_another = 10;

using Rows = std::span<const HistoryRow>;

/// Mean of the last few rows, and twice how far such means have been from it, or those rows
/// themselves: a swing that repeats itself after so many is none to means.
WindowMean settled_value(Rows rows, double (*value)(const HistoryRow&)) {
  std::vector<double> values;
  double mean = 0;
  for (std::size_t from = rows.size() % last_few; from < rows.size(); from += last_few) {
    double sum = 0;
    for (const HistoryRow& row : rows.subspan(from, last_few)) sum += value(row) / last_few;
    values.push_back(mean = sum);
  }
  for (const HistoryRow& row : rows.last(last_few)) values.push_back(value(row));
  const auto [least, most] = std::minmax_element(values.begin(), values.end());
  WindowMean w{mean, *least, *most};
  w.half_interval = 2 * std::max(*most - w.mean, w.mean - *least);
  w.count = static_cast<int>(last_few);
  return w;
}

double largest_change(Rows rows) {
  double most = 0;
  for (const HistoryRow& row : rows) most = std::max(most, row.change);
  return most;
}

}  // namespace

Rest rest_of(const std::vector<HistoryRow>& h, const ReferenceValues& reference,
             const AccuracyWanted& accuracy, bool warm) {
  Rest rest;
  const std::size_t developed = warm ? from_another : from_stream;
  if (h.size() < developed + watched / 2 || h.size() < watched) {
    rest.doubt = fmt::format("{} iterations are too few to judge", h.size());
    return rest;
  }
  const Rows last = Rows(h).last(watched);
  rest.cd = settled_value(last, [](const HistoryRow& r) { return r.c.cd; });
  rest.cl = settled_value(last, [](const HistoryRow& r) { return r.c.cl; });
  rest.cy = settled_value(last, [](const HistoryRow& r) { return r.c.cy; });
  rest.momentum_drag = settled_value(last, [](const HistoryRow& r) { return r.momentum_drag; });
  rest.clf = settled_value(last, [](const HistoryRow& r) { return r.c.clf(); });
  rest.clr = settled_value(last, [](const HistoryRow& r) { return r.c.clr(); });
  rest.from = h[h.size() - last_few].iteration;
  const double before = largest_change(Rows(h).subspan(developed)), now = h.back().change;
  if (!(before > 0)) {
    rest.doubt = "how fast the flow changes was not measured";
    return rest;
  }
  const double at_first =
      largest_change(Rows(h).subspan(warm ? first_of_another : first_of_stream));
  const bool rested_early = largest_change(last) <= early_fall * at_first;
  if (!rested_early && now > std::max(nothing, fall * before)) {
    rest.doubt = fmt::format("the flow still changes {:.2g} times as fast as it did, {} is rest",
                             now / before, fall);
    return rest;
  }
  double surplus = 0;
  for (const HistoryRow& row : last.last(last_few))
    surplus +=
        (row.momentum_drag / (reference.dynamic_pressure() * reference.frontal_area) - row.c.cd) /
        last_few;
  if (std::abs(surplus) > momentum_agreement * std::abs(rest.cd.mean))
    rest.doubt = fmt::format("drag and the stream's loss of momentum still differ by {:.2f} %",
                             100 * std::abs(surplus / rest.cd.mean));
  for (const auto& [name, mean, allowed] :
       {std::tuple{"CD", &rest.cd, accuracy.drag * std::abs(rest.cd.mean)},
        {"CLF", &rest.clf, accuracy.lift},
        {"CLR", &rest.clr, accuracy.lift}})
    if (rest.doubt.empty() && mean->half_interval > allowed)
      rest.doubt = fmt::format("{} has moved by {:.4f} in the last {} iterations", name,
                               0.5 * mean->half_interval, watched);
  return rest;
}

}  // namespace dunefield
