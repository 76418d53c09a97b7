#include <dunefield/look/charts.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/display_units.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/look/chart_titles.hpp>
#include <dunefield/look/levels.hpp>
#include <dunefield/look/vehicle_sheets.hpp>
#include <dunefield/look/words.hpp>
#include <dunefield/record/drag_decimals.hpp>
#include <dunefield/record/points.hpp>
#include <dunefield/record/readings.hpp>

namespace dunefield {
namespace {

std::vector<const Record*> records_of(const Views& views) {
  std::vector<const Record*> records;
  for (const auto& v : views) records.push_back(&v->record());
  return records;
}

/// Iterations, or of a flow in time its seconds.
double along(const HistoryRow& h, bool time) { return time ? h.time : h.iteration; }

}  // namespace

Chart history_chart(const std::vector<const Record*>& records) {
  // What runs in time is shown from its first step on.
  const bool time =
      std::all_of(records.begin(), records.end(), [](const Record* r) { return in_time(*r); });
  Chart chart{title_for(records, "history"), time ? "time, s" : "iteration", "", {}, {}, 1e300};
  constexpr double start_up = 0.1;  // share of the history that does not set the range
  chart.panels = {{"drag coefficient CD", {}, false, start_up},
                  {"lift coefficient", {}, false, start_up},
                  {"residual of momentum", {}, true}};
  for (const Record* r : records) {
    const std::string name = short_name(records, *r);
    ChartLine cd{name, {}, {}, {}}, lift = cd, rear = cd, residual = cd;
    if (records.size() == 1) lift.name = "front", rear.name = "rear";
    for (const HistoryRow& h : r->history) {
      if (time && !(h.time > 0)) continue;
      for (ChartLine* l : {&cd, &lift, &rear, &residual}) l->x.push_back(along(h, time));
      cd.y.push_back(h.c.cd), residual.y.push_back(h.momentum_residual);
      lift.y.push_back(records.size() == 1 ? h.c.clf() : h.c.cl), rear.y.push_back(h.c.clr());
    }
    chart.panels[0].lines.push_back(cd), chart.panels[1].lines.push_back(lift);
    if (records.size() == 1) chart.panels[1].lines.push_back(rear);
    residual.name.clear();
    chart.panels[2].lines.push_back(residual);
  }
  if (records.size() > 1) return chart;
  const Record& r = *records.front();
  const Convergence& m = r.convergence;
  for (const HistoryRow& h : r.history)
    if (h.iteration <= m.window_from) chart.shaded_from = along(h, time);
  chart.panels[0].mean = m.cd.mean, chart.panels[0].half_interval = m.cd.half_interval;
  chart.footer = fmt::format(
      "{}: CD {:.{}f} ± {:.{}f}, CL {:+.4f} ± {:.4f} over the shaded {}{}", words(r.status),
      m.cd.mean, drag_decimals(m.cd.mean), m.cd.half_interval, drag_decimals(m.cd.mean), m.cl.mean,
      m.cl.half_interval, time ? "time" : "iterations", m.why.empty() ? "" : "; " + m.why);
  return chart;
}

Chart build_up_chart(const std::vector<const Record*>& records) {
  Chart chart{title_for(records, "build-up of drag and lift"),
              "x, m (0: middle of the wheelbase)",
              "Each value is that of everything ahead of the place; state of the last iteration.",
              {},
              {},
              1e300,
              {}};
  chart.panels = {{"drag coefficient CD from the nose on", {}},
                  {"lift coefficient CL from the nose on", {}}};
  for (const Record* r : records) {
    const BuildUp b = build_up(*r);
    const double qa = r->reference.dynamic_pressure() * r->reference.frontal_area;
    const std::string name = short_name(records, *r);
    ChartLine all{name, {}, b.station, {}}, pressure = all, friction = all, lift = all;
    if (records.size() == 1)
      all.name = "all", pressure.name = "pressure", friction.name = "friction";
    for (std::size_t i = 0; i < b.station.size(); ++i) {
      pressure.y.push_back(b.pressure[i].x / qa), friction.y.push_back(b.friction[i].x / qa);
      all.y.push_back(pressure.y[i] + friction.y[i]);
      lift.y.push_back((b.pressure[i].z + b.friction[i].z) / qa);
    }
    chart.panels[0].lines.push_back(all), chart.panels[1].lines.push_back(lift);
    if (records.size() == 1)
      chart.panels[0].lines.push_back(pressure), chart.panels[0].lines.push_back(friction);
  }
  return chart;
}

Chart parts_chart(const std::vector<const Record*>& records) {
  Chart chart{title_for(records, "by part"), "", "Means over each run.", {}, {}, 1e300};
  chart.panels = {{"CD", {}}, {"CL", {}}};
  for (const Record* r : records)
    for (const PartMean& p : r->part_means)
      if ((p.cd != 0 || p.cl != 0) &&
          std::find(chart.x_names.begin(), chart.x_names.end(), p.part) == chart.x_names.end())
        chart.x_names.push_back(p.part);
  for (const Record* r : records) {
    ChartLine cd{short_name(records, *r), {}, {}, {}}, cl = cd;
    for (const std::string& name : chart.x_names) {
      const auto it = std::find_if(r->part_means.begin(), r->part_means.end(),
                                   [&](const PartMean& p) { return p.part == name; });
      cd.y.push_back(it == r->part_means.end() ? 0 : it->cd);
      cl.y.push_back(it == r->part_means.end() ? 0 : it->cl);
    }
    chart.panels[0].lines.push_back(cd), chart.panels[1].lines.push_back(cl);
  }
  return chart;
}

namespace {

constexpr char speed_key[] = "speed";

/// What a run has of a swept key, as a number in the key's own unit; not finite: nothing.
double swept_value(const RunIdentity& run, const std::string& key) {
  if (key == speed_key) return run.speed / display_units(run.units, "record").speed.size;
  for (const Setting& s : run.settings)
    if (s.key == key) return std::strtod(s.value.c_str(), nullptr);
  return std::numeric_limits<double>::quiet_NaN();
}

/// The first of speed and settings that the runs differ in.
std::string swept_key(const std::vector<Figures>& runs) {
  const RunIdentity& first = runs.front().run;
  std::vector<std::string> keys = {speed_key};
  for (const Setting& s : first.settings) keys.push_back(s.key);
  for (const std::string& key : keys)
    for (const Figures& f : runs)
      if (std::abs(swept_value(f.run, key) - swept_value(first, key)) > 1e-9) return key;
  throw InputError("the records differ neither in speed nor in a setting", first.variant,
                   "name runs of a sweep");
}

std::string unit_of(const RunIdentity& run, const std::string& key) {
  for (const Setting& s : run.settings)
    if (s.key == key) return s.value.substr(std::min(s.value.size(), s.value.find(' ') + 1));
  return display_units(run.units, "record").speed.name;
}

/// The variant, with what else the run is told apart by: a line of the chart.
std::string name_but_for(const RunIdentity& run, const std::string& key) {
  Settings others = run.settings;
  std::erase_if(others, [&](const Setting& s) { return s.key == key; });
  const std::string words = in_words(others);
  std::string name = run.variant + (words.empty() ? "" : ", " + words);
  if (key != speed_key) name += ", " + speed_in_words(run);
  return name;
}

}  // namespace

Chart sweep_chart(const std::vector<Figures>& runs) {
  const std::string key = swept_key(runs);
  const RunIdentity& first = runs.front().run;
  Chart chart{first.campaign + (first.campaign.empty() ? "over " : ": over ") + key,
              key + ", " + unit_of(first, key),
              "",
              {},
              {},
              1e300,
              {}};
  chart.panels = {{"CD", {}}, {"CL front", {}}, {"CL rear", {}}};
  std::map<std::string, std::vector<const Figures*>> lines;
  for (const Figures& f : runs) lines[name_but_for(f.run, key)].push_back(&f);
  for (auto& [name, all] : lines) {
    std::sort(all.begin(), all.end(), [&](const Figures* a, const Figures* b) {
      return swept_value(a->run, key) < swept_value(b->run, key);
    });
    const WindowMean Figures::*const means[] = {&Figures::cd, &Figures::clf, &Figures::clr};
    for (std::size_t k = 0; k < 3; ++k) {
      ChartLine line{name, {}, {}, {}, true};
      for (const Figures* f : all) {
        line.x.push_back(swept_value(f->run, key)), line.y.push_back((f->*means[k]).mean);
        line.half_interval.push_back((f->*means[k]).half_interval);
      }
      chart.panels[k].lines.push_back(std::move(line));
    }
  }
  return chart;
}

Chart section_chart(const Views& views, const WallSection& section) {
  const auto records = records_of(views);
  const Quantity q = quantity_named(*records.front(), section.quantity);
  Chart chart{
      title_for(records, fmt::format("{} where the surface meets a plane", q.name)),
      section.over_chord ? "x over chord" : "x, m",
      fmt::format(
          "Plane through ({:.3g}, {:.3g}, {:.3g}) m{}", section.plane.point.x,
          section.plane.point.y, section.plane.point.z,
          section.parts.empty() ? "" : fmt::format("; parts: {}", fmt::join(section.parts, ", "))),
      {},
      {},
      1e300,
      {}};
  chart.panels = {{q.name + (q.unit.empty() ? "" : ", " + q.unit), {}}};
  chart.panels[0].downward = section.quantity == "Cp";
  for (const auto& view : views) {
    ChartLine line{short_name(records, view->record()), {}, {}, {}};
    Plane plane = section.plane;
    if (view->half() && std::abs(plane.point.y) < 1e-9 && std::abs(plane.normal.y) > 0.999)
      plane.point.y = 1e-4 * view->record().vehicle.size().x;
    for (const Sheet& s : vehicle_sheets(*view, section.quantity)) {
      if (!section.parts.empty() &&
          std::find(section.parts.begin(), section.parts.end(), s.name) == section.parts.end())
        continue;
      for (const Strand& strand : sheet_section(s, plane.point, plane.normal).strands) {
        for (std::size_t i = 0; i < strand.points.size(); ++i)
          line.x.push_back(strand.points[i].x), line.y.push_back(strand.values[i]);
        line.x.push_back(line.x.back());
        line.y.push_back(std::numeric_limits<double>::quiet_NaN());
      }
    }
    if (line.x.empty())
      throw InputError("the plane misses the parts of '" + view->record().run.variant + "'",
                       "section", "move it, or name other parts");
    if (section.over_chord) {
      const auto [lo, hi] = std::minmax_element(line.x.begin(), line.x.end());
      const double from = *lo, chord = std::max(1e-12, *hi - *lo);
      for (double& x : line.x) x = (x - from) / chord;
    }
    chart.panels[0].lines.push_back(line);
  }
  return chart;
}

Chart air_line_chart(const Views& views, const AirLine& along) {
  const auto records = records_of(views);
  const Quantity q = quantity_named(*records.front(), along.quantity);
  Chart chart{
      title_for(records, q.name + " along a line"),
      "m along the line",
      fmt::format("From ({:.3g}, {:.3g}, {:.3g}) to ({:.3g}, {:.3g}, {:.3g}) m", along.from.x,
                  along.from.y, along.from.z, along.to.x, along.to.y, along.to.z),
      {},
      {},
      1e300,
      {}};
  chart.panels = {{q.name + (q.unit.empty() ? "" : ", " + q.unit), {}}};
  for (const auto& view : views) {
    ChartLine line{short_name(records, view->record()), {}, {}, {}};
    const Sampler sampler(view->mesh());
    const std::vector<double> cells = view->in_air(along.quantity),
                              mirrored = view->half() ? view->in_air(along.quantity, Side::mirrored)
                                                      : std::vector<double>();
    for (const Vec3& p : points_along(along.from, along.to, along.points)) {
      const Vec3 x = meshed_side(p, view->half());
      const auto cell = sampler.cell_at(x);
      line.x.push_back(norm(p - along.from));
      line.y.push_back(cell ? sampler.value_at(*cell, view->half() && p.y < 0 ? mirrored : cells, x)
                            : std::numeric_limits<double>::quiet_NaN());
    }
    if (std::none_of(line.y.begin(), line.y.end(), [](double v) { return std::isfinite(v); }))
      throw InputError("the line does not pass through air", "line", "check its ends");
    chart.panels[0].lines.push_back(line);
  }
  return chart;
}

namespace {

/// What words ask for; the records are needed to draw it only.
struct ChartRequest {
  std::string kind;
  WallSection section;
  AirLine line;
  ProbeChoice probe;
};

ChartRequest request_of(const std::string& text) {
  Words w(text, "chart");
  ChartRequest r;
  const std::vector<std::string> kinds = {"history", "build-up", "parts",   "sweep",
                                          "section", "line",     "spectrum"};
  for (const std::string& k : kinds)
    if (w.flag(k)) r.kind = k;
  if (r.kind.empty())
    w.fail("'" + text + "' names no chart", fmt::format("use one of {}", fmt::join(kinds, ", ")));
  if (r.kind == "section") {
    for (int axis = 0; axis < 3; ++axis) {
      const std::string key(1, "xyz"[axis]);
      if (!w.has(key)) continue;
      r.section.plane = {}, r.section.plane.normal = {};
      r.section.plane.normal[axis] = 1;
      r.section.plane.point[axis] = w.quantity(key, Dimension::length, 0);
    }
    r.section.parts = w.list("parts");
    const std::string over = w.text("over", "x");
    if (over != "x" && over != "chord") w.fail("'over' is '" + over + "'", "use x or chord");
    r.section.over_chord = over == "chord";
    r.section.quantity = w.text("quantity", "Cp");
  }
  if (r.kind == "line") {
    const auto from = w.place("from"), to = w.place("to");
    if (!from || !to) w.fail("the ends of the line are missing", "give from and to");
    r.line.from = *from, r.line.to = *to;
    r.line.points = w.count("points", 200, 2, 100'000);
    r.line.quantity = w.text("quantity", "total Cp");
  }
  if (r.kind == "history" || r.kind == "spectrum") {
    if (w.has("tap") && w.has("rake")) w.fail("a tap and a rake are named", "name one of them");
    r.probe.name = w.has("tap") ? w.text("tap", "") : w.text("rake", "");
    if (w.has("rake")) r.probe.point = w.count("point", 1, 1, 1'000'000);
  }
  const auto others = w.others();
  if (others.size() == 1 && (r.kind == "section" || r.kind == "line"))
    r.section.quantity = r.line.quantity = others[0];
  else if (!others.empty())
    w.fail("'" + others[0] + "' is not known here", "see docs/guide/pictures.md");
  w.finish();
  return r;
}

}  // namespace

void check_chart(const std::string& words) { request_of(words); }

Chart chart_of(const Views& views, const std::string& words) {
  const ChartRequest r = request_of(words);
  const auto records = records_of(views);
  const bool of_probe = !r.probe.name.empty();
  if (r.kind == "history")
    return of_probe ? probe_history_chart(records, r.probe) : history_chart(records);
  if (r.kind == "spectrum")
    return of_probe ? probe_spectrum_chart(records, r.probe) : spectrum_chart(records);
  if (r.kind == "build-up") return build_up_chart(records);
  if (r.kind == "parts") return parts_chart(records);
  if (r.kind == "sweep") {
    std::vector<Figures> runs;
    for (const Record* one : records) runs.push_back(one->figures());
    return sweep_chart(runs);
  }
  return r.kind == "section" ? section_chart(views, r.section) : air_line_chart(views, r.line);
}

}  // namespace dunefield
