#include <dunefield/campaign/result_tables.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/balance/statistics.hpp>
#include <dunefield/campaign/paired_scatter.hpp>
#include <dunefield/record/drag_decimals.hpp>

namespace dunefield {

using Rows = std::vector<std::vector<std::string>>;

namespace {

/// "+0.012 ± 0.004", or nothing.
std::string told(const std::optional<Difference>& d, int digits) {
  return d ? fmt::format("{:+.{}f} ± {:.{}f}", d->value, digits, d->uncertainty, digits) : "";
}

/// Variants from the least drag to the most.
std::string ranking(const Comparison& c) {
  std::vector<const ComparisonRow*> rows;
  for (const ComparisonRow& r : c.rows) rows.push_back(&r);
  std::stable_sort(rows.begin(), rows.end(), [](const ComparisonRow* a, const ComparisonRow* b) {
    return a->run.drag < b->run.drag;
  });
  std::string out = "In order of drag: ";
  for (const ComparisonRow* r : rows) out += (r == rows[0] ? "" : ", ") + r->run.run.variant;
  return out;
}

std::string percent_of_drag(const ComparisonRow& r, const Comparison& c) {
  const double base = c.baseline ? c.baseline->drag : 1;
  return r.drag ? fmt::format("{:+.1f} ± {:.1f}", 100 * r.drag->value / base,
                              100 * r.drag->uncertainty / base)
                : "";
}

/// What more lattices would tell apart, where one leaves the question open; else nothing.
std::string advice(const Comparison& c) {
  constexpr int more = 4;
  double least = 0;  // of drag
  for (const ComparisonRow& r : c.rows) {
    if (r.verdict != Verdict::within_noise || r.lattices > 1 || !c.baseline) continue;
    const PairedScatter s = paired_scatter(r.run.run, c.baseline->run);
    const WindowMean &a = r.run.cd, &b = c.baseline->cd;
    const double histories = std::hypot(a.half_interval, b.half_interval) / std::abs(b.mean);
    least =
        std::max(least, std::hypot(student_t(s.degrees_of_freedom + more - 1) * s.drag, histories) /
                            std::sqrt(more));
  }
  if (least == 0) return {};
  return fmt::format(
      "With [certainty] lattices = {} the uncertainty of drag would fall to about ± {:.1f} %", more,
      100 * least);
}

}  // namespace

std::string with_interval(const WindowMean& w, int digits) {
  return fmt::format("{:.{}f} ± {:.{}f}", w.mean, digits, w.half_interval, digits);
}

std::string drag_with_interval(const WindowMean& cd) {
  return with_interval(cd, drag_decimals(cd.mean));
}

std::string to_two_digits(double value, double half_interval, const std::string& sign) {
  constexpr int most = 6;
  const double shown = half_interval > 0 ? half_interval : 1e-2 * std::abs(value);
  const int decimals =
      shown > 0 ? std::clamp(1 - static_cast<int>(std::floor(std::log10(shown))), 0, most) : 3;
  return fmt::format(fmt::runtime("{:" + sign + ".{}f} ± {:.{}f}"), value, decimals, half_interval,
                     decimals);
}

std::vector<ResultTable> comparison_tables(const std::vector<Figures>& runs,
                                           const std::string& baseline, const Wants& wants,
                                           const DisplayUnits& units) {
  std::vector<ResultTable> tables;
  const std::string drag = fmt::format("drag {}", units.force.name);
  const auto told_force = [&](std::optional<Difference> d) {
    if (d) d->value /= units.force.size, d->uncertainty /= units.force.size;
    return told(d, 1);
  };
  for (const Comparison& c : compare(runs, baseline)) {
    int lattices = 1;
    for (const ComparisonRow& r : c.rows) lattices = std::max(lattices, r.lattices);
    Rows rows = {{"variant", "CD", "CL", "CLF", "CLR", fmt::format("CD*A {}", units.area.name),
                  drag, "status"}};
    for (const ComparisonRow& r : c.rows)
      rows.push_back({r.run.run.variant, drag_with_interval(r.run.cd), with_interval(r.run.cl, 3),
                      with_interval(r.run.clf, 3), with_interval(r.run.clr, 3),
                      units.in(units.area, r.run.cd.mean * r.run.reference.frontal_area,
                               drag_decimals(r.run.cd.mean) > 4 ? 5 : 3),
                      units.in(units.force, r.run.drag, 1), words(r.run.status)});
    tables.push_back({conditions_in_words(c.speed, c.settings, units) +
                          (lattices > 1 ? fmt::format(", means of {} lattices", lattices) : ""),
                      rows,
                      {}});
    rows = {{"change from '" + baseline + "'", drag, "drag %", "CLF", "CLR", "verdict"}};
    for (const ComparisonRow& r : c.rows)
      if (r.verdict != Verdict::baseline)
        rows.push_back({r.run.run.variant, told_force(r.drag), percent_of_drag(r, c),
                        told(r.clf, 3), told(r.clr, 3), verdict_in_words(r, wants)});
    if (rows.size() < 2) continue;
    tables.push_back({"", rows, {}});
    if (rows.size() > 2) tables.back().notes.push_back(ranking(c));
    if (const std::string more = advice(c); !more.empty()) tables.back().notes.push_back(more);
  }
  return tables;
}

ResultTable by_part_table(const Figures& run, const Figures& baseline) {
  const std::vector<PartDifference> parts = by_part(run, baseline);
  if (parts.empty()) return {};
  Rows rows = {{"part", "change of CD", "% of all drag", "change of CL"}};
  for (const PartDifference& p : parts)
    rows.push_back({p.part, fmt::format("{:+.4f}", p.cd),
                    fmt::format("{:+.1f}", 100 * p.cd / baseline.cd.mean),
                    fmt::format("{:+.4f}", p.cl)});
  return {fmt::format("Where '{}' differs from '{}', means by part", run.run.variant,
                      baseline.run.variant),
          rows,
          {}};
}

ResultTable by_stretch_table(const Explanation& e, const Figures& baseline) {
  Rows rows = {
      {"from m", "to m", "change of CD", "% of all drag", "pressure", "friction", "baseline's CD"}};
  for (const Stretch& s : e.stretches)
    rows.push_back(
        {fmt::format("{:+.2f}", s.from), fmt::format("{:+.2f}", s.to), fmt::format("{:+.4f}", s.cd),
         fmt::format("{:+.1f}", 100 * s.cd / baseline.cd.mean), fmt::format("{:+.4f}", s.pressure),
         fmt::format("{:+.4f}", s.friction), fmt::format("{:.4f}", s.baseline)});
  return {
      fmt::format("By stretch of the length, nose to tail, of the last states alone (CD {:+.4f})",
                  e.last_state),
      rows,
      {}};
}

ResultTable devices_table(const std::vector<DeviceFigures>& devices, const DisplayUnits& units) {
  if (devices.empty()) return {};
  Rows rows = {{"core, fan or opening", "kg/s", "mean m/s", "spread m/s", "pressure Pa",
                fmt::format("drag {}", units.force.name), "heat kW"}};
  for (const DeviceFigures& d : devices)
    rows.push_back({d.name, fmt::format("{:.4f}", d.mass_flow),
                    fmt::format("{:.3f}", d.mean_velocity), fmt::format("{:.3f}", d.spread),
                    fmt::format("{:+.1f}", d.pressure_change), units.in(units.force, d.force.x, 1),
                    d.heat == 0 ? "" : fmt::format("{:.2f}", d.heat / 1000)});
  return {"Cores, fans and openings at the last iteration", rows, {}};
}

}  // namespace dunefield
