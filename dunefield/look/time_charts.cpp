// Flows in time: how coefficients, taps and rakes swing.
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/balance/spectrum.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/look/chart_titles.hpp>
#include <dunefield/look/charts.hpp>

namespace dunefield {
namespace {

void check_in_time(const Record& r, const char* chart) {
  if (!in_time(r))
    throw InputError("'" + r.run.variant + "' is no flow in time", chart,
                     "give its campaign a [time]");
}

/// Frequency times root of area over speed.
double reduced(double frequency, const Record& r) {
  return frequency * std::sqrt(r.reference.frontal_area) / r.reference.speed;
}

/// The probe's place in the series.
std::size_t find_probe(const Record& r, const ProbeChoice& wanted) {
  std::vector<std::string> known;
  for (std::size_t i = 0; i < r.probes.probes.size(); ++i) {
    const Probe& p = r.probes.probes[i];
    if (p.name == wanted.name && p.number == wanted.point) return i;
    known.push_back(p.number > 0 ? fmt::format("rake = {}, point = {}", p.name, p.number)
                                 : "tap = " + p.name);
  }
  constexpr std::size_t most = 8;
  if (known.size() > most) known.resize(most), known.push_back("...");
  const std::string what = wanted.point > 0
                               ? fmt::format("point {} of a rake '{}'", wanted.point, wanted.name)
                               : "a tap '" + wanted.name + "'";
  throw InputError(fmt::format("'{}' has not read {} in time", r.run.variant, what), "chart",
                   known.empty() ? "give its campaign [[tap]] or [[rake]] before it runs"
                                 : fmt::format("use one of: {}", fmt::join(known, "; ")));
}

std::string words_of(const ProbeChoice& c) {
  return c.point > 0 ? fmt::format("rake {}, point {}", c.name, c.point) : "tap " + c.name;
}

}  // namespace

Chart spectrum_chart(const std::vector<const Record*>& records) {
  Chart chart{title_for(records, "spectrum"), "frequency, Hz", "", {}, {}, 1e300, {}};
  chart.panels = {{"CD, square per Hz", {}, true},
                  {"CL, square per Hz", {}, true},
                  {"CY, square per Hz", {}, true}};
  const auto add = [&](const Record& r, std::size_t panel, double Coefficients::*value) {
    std::vector<double> series;
    double from = 0, to = 0;
    for (const HistoryRow& h : r.history)
      if (h.time > 0 && h.iteration >= r.convergence.window_from)
        from = series.empty() ? h.time : from, to = h.time, series.push_back(h.c.*value);
    const Spectrum s =
        spectrum_of(series, (to - from) / std::max(1.0, static_cast<double>(series.size()) - 1));
    chart.panels[panel].lines.push_back({short_name(records, r), s.density, s.frequency, {}});
    if (panel == 0)
      chart.footer +=
          fmt::format("{}{}: CD peaks at {:.4g} Hz, {:.3g} of speed over root of area; {} pieces",
                      chart.footer.empty() ? "" : "; ", r.run.variant, s.peak(),
                      reduced(s.peak(), r), s.pieces);
  };
  for (const Record* r : records) {
    check_in_time(*r, "spectrum");
    add(*r, 0, &Coefficients::cd), add(*r, 1, &Coefficients::cl);
    if (!r->run.half) add(*r, 2, &Coefficients::cy);
  }
  std::erase_if(chart.panels, [](const ChartPanel& p) { return p.lines.empty(); });
  return chart;
}

Chart probe_spectrum_chart(const std::vector<const Record*>& records, const ProbeChoice& wanted) {
  Chart chart{
      title_for(records, "spectrum of " + words_of(wanted)), "frequency, Hz", "", {}, {}, 1e300};
  const int columns = wanted.point > 0 ? 4 : 1;
  for (int c = 0; c < columns; ++c)
    chart.panels.push_back(
        {fmt::format("{}, square of {} per Hz", probe_columns[c].name, probe_columns[c].unit),
         {},
         true});
  for (const Record* r : records) {
    check_in_time(*r, "spectrum");
    const std::size_t probe = find_probe(*r, wanted),
                      first = r->probes.step_at(r->means_from_time());
    for (int c = 0; c < columns; ++c) {
      const std::vector<double> values = r->probes.of(probe, c, first);
      const Spectrum s = spectrum_of(values, r->probes.step());
      chart.panels[at(c)].lines.push_back({short_name(records, *r), s.density, s.frequency, {}});
      if (c == 0)
        chart.footer += fmt::format(
            "{}{}: pressure swings most at {:.4g} Hz, {:.3g} of speed over root of area; {} pieces",
            chart.footer.empty() ? "" : "; ", r->run.variant, s.peak(), reduced(s.peak(), *r),
            s.pieces);
    }
  }
  return chart;
}

Chart probe_history_chart(const std::vector<const Record*>& records, const ProbeChoice& wanted) {
  Chart chart{title_for(records, words_of(wanted)), "time, s", "", {}, {}, 1e300};
  const int columns = wanted.point > 0 ? 4 : 1;
  for (int c = 0; c < columns; ++c)
    chart.panels.push_back(
        {fmt::format("{}, {}", probe_columns[c].name, probe_columns[c].unit), {}});
  for (const Record* r : records) {
    check_in_time(*r, "history");
    const std::size_t probe = find_probe(*r, wanted);
    for (int c = 0; c < columns; ++c)
      chart.panels[at(c)].lines.push_back(
          {short_name(records, *r), r->probes.of(probe, c), r->probes.time, {}});
    if (records.size() > 1) continue;
    chart.shaded_from = r->means_from_time();
    for (const ProbeStatistics& s : statistics_of(r->probes, r->means_from_time())) {
      if (s.probe != probe) continue;
      chart.panels[at(s.column)].mean = s.mean.mean;
      chart.panels[at(s.column)].half_interval = s.mean.half_interval;
      const ProbeColumn& column = probe_columns[s.column];
      chart.footer +=
          fmt::format("{}{} {:.4g} ± {:.2g} {}, deviation {:.3g}",
                      chart.footer.empty() ? "mean over the shaded time: " : "; ", column.name,
                      s.mean.mean, s.mean.half_interval, column.unit, s.deviation);
    }
  }
  return chart;
}

}  // namespace dunefield
