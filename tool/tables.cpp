#include "tables.hpp"

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/record/drag_decimals.hpp>

namespace dunefield::tool {
namespace {

using Rows = std::vector<std::vector<std::string>>;

std::string place(const Vec3& p) { return fmt::format("({:.3f}, {:.3f}, {:.3f})", p.x, p.y, p.z); }

void show_ends(const LayerReport& layers, Console& console) {
  Rows rows = {{"fewer layers where", "% of the wall"}};
  constexpr double worth_saying = 0.0005;
  for (const auto& [end, share] : layers.ends)
    if (share > worth_saying) rows.push_back({in_words(end), fmt::format("{:.1f}", 100 * share)});
  if (rows.size() > 1) console.table(rows);
}

void show_layers(const LayerReport& layers, const RunSetup& setup, Console& console) {
  console.line(fmt::format(
      "layers     {} cells; all layers over {:.1f} % of the wall, 80 % of the thickness over "
      "{:.1f} %",
      layers.cells, 100 * layers.full_share(), 100 * layers.thick_share()));
  constexpr std::size_t most = 40;  // an assembly may have thousands
  std::vector<const PartLayers*> parts;
  for (const PartLayers& p : layers.parts) parts.push_back(&p);
  if (parts.size() > most) {
    std::stable_sort(parts.begin(), parts.end(),
                     [](const PartLayers* a, const PartLayers* b) { return a->area > b->area; });
    parts.resize(most);
  }
  Rows rows = {{"part", "area m2", "all layers %", "80 % thick %", "even step %", "first height mm",
                "y+ about"}};
  for (const PartLayers* p : parts)
    rows.push_back(
        {p->part, fmt::format("{:.3f}", p->area), fmt::format("{:.1f}", 100 * p->full_share),
         fmt::format("{:.1f}", 100 * p->thick_share), fmt::format("{:.1f}", 100 * p->step_share),
         fmt::format("{:.2f}", 1000 * p->mean_first_height),
         fmt::format("{:.0f}",
                     expected_y_plus(setup, p->mean_first_height, setup.conditions.speed))});
  console.table(rows);
  if (layers.parts.size() > parts.size())
    console.line(fmt::format("           {} parts more, smaller than these",
                             layers.parts.size() - parts.size()));
  show_ends(layers, console);
}

}  // namespace

void show_quality(const MeshResult& m, const RunSetup& setup, Console& console) {
  const MeshQuality& q = m.quality;
  console.line(fmt::format("mesh       {} cells in {:.1f} s; all closed ({:.0e}); {}", q.cells,
                           m.seconds, q.worst_closure,
                           q.good() ? "no face beyond what is tolerated"
                                    : "some faces are beyond what is tolerated: the flow may need "
                                      "more iterations or back off"));
  Rows rows = {{"measure", "mean", "worst", "limit", "beyond", "tolerated", "worst at m"}};
  for (const MeasureSummary& s : q.summary)
    rows.push_back(
        {s.name + (s.unit.empty() ? "" : " " + s.unit), fmt::format("{:.3g}", s.mean),
         fmt::format("{:.3g}", s.worst_value()), fmt::format("{:.3g}", s.limit),
         s.beyond ? fmt::format("{} ({:.3f} %)", s.beyond, 100 * s.share_beyond()) : "none",
         s.tolerates_any() ? "any" : fmt::format("{:.3g}", s.tolerated),
         place(s.worst.empty() ? Vec3{} : s.worst[0].place)});
  console.table(rows);
  if (m.merged > 0)
    console.line(
        fmt::format("mended     {} cells that were too flat or too small were merged with a "
                    "neighbour",
                    m.merged));
  if (m.layers.cells > 0) show_layers(m.layers, setup, console);
  console.show(m.findings);
}

void show_quality_briefly(const MeshResult& m, Console& console) {
  const MeshQuality& q = m.quality;
  console.line(fmt::format("mesh       {} cells in {:.1f} s; {}", q.cells, m.seconds,
                           q.good() ? "all checks passed"
                                    : "some faces are beyond the limits: the flow may need more "
                                      "iterations"));
  if (m.layers.cells > 0)
    console.line(
        fmt::format("layers     all over {:.1f} % of the wall", 100 * m.layers.full_share()));
  console.show_briefly(m.findings, "`--notes` prints them, `dunefield mesh` lists all checks");
}

void print_text(const std::string& text, Console& console) {
  console.data(text);
  console.json(dumped({{"text", text}}));
}

void show(const std::vector<ResultTable>& tables, Console& console) {
  for (const ResultTable& t : tables) {
    if (t.rows.empty()) continue;
    if (!t.title.empty()) console.line(), console.heading(t.title);
    console.table(t.rows);
    for (const std::string& note : t.notes) console.line(note);
  }
}

void show_comparison(const std::vector<Figures>& runs, const std::string& baseline,
                     const Wants& wants, Console& console) {
  const std::vector<VariantVerdict> found = verdicts(runs, baseline, wants, console.units());
  if (!found.empty()) console.line(), console.heading("Against '" + baseline + "'");
  for (const VariantVerdict& v : found) {
    const bool less = v.verdict == Verdict::better, more = v.verdict == Verdict::worse;
    console.verdict(v.sentence, (less && wants.less_drag) || (more && wants.more_drag)
                                    ? Console::Meaning::good
                                : less || more ? Console::Meaning::bad
                                               : Console::Meaning::open);
  }
  show(comparison_tables(runs, baseline, wants, console.units()), console);
  if (!runs.empty() && runs.front().run.half)
    console.line("\nForces are those of the whole vehicle, mirrored from one half.");
  for (const Figures& r : runs)
    if (!r.settled())
      console.show([&] {
        Findings f;
        f.warn(fmt::format("{} at {}: {}; {}", r.run.variant,
                           conditions_in_words(r.run.speed, r.run.settings, console.units()),
                           words(r.status), r.why));
        return f;
      }());
}

namespace {

/// "tapered tail, yaw 5 deg, lattice 2"
std::string name_of(const PlannedRun& p, const std::vector<PlannedRun>& plan) {
  const bool lattices = plan.back().lattice > 0;
  return p.variant + (p.settings.empty() ? "" : ", " + p.settings) +
         (lattices ? fmt::format(", lattice {}", p.lattice + 1) : "");
}

}  // namespace

void show_plan(const std::vector<PlannedRun>& plan, const std::filesystem::path& folder,
               Console& console) {
  Rows rows = {
      {"run", console.units().speed.name, "cells", "iterations", "time", "memory GB", "state"}};
  Json list = Json::array();
  double seconds = 0, bytes = 0, left = 0;
  for (const PlannedRun& p : plan) {
    const char* state = p.to_do == ToDo::nothing    ? "done"
                        : p.to_do == ToDo::readings ? "done; readings are made again"
                        : p.to_do == ToDo::limits   ? "goes on"
                                                    : "to do";
    rows.push_back({name_of(p, plan), fmt::format("{:.4g}", p.speed / console.units().speed.size),
                    fmt::format("{:.0f}", p.cells),
                    p.iterations > 0 ? fmt::format("about {:.0f}", p.iterations) : "",
                    p.seconds > 0 ? clock_time(p.seconds) : "",
                    fmt::format("{:.1f}", p.bytes / 1e9), state});
    seconds += p.seconds, bytes = std::max(bytes, p.bytes), left += p.iterations > 0 ? 1 : 0;
    list.push_back({{"variant", p.variant},
                    {"speed_m_s", p.speed},
                    {"settings", p.settings},
                    {"lattice", p.lattice + 1},
                    {"folder", p.folder.string()},
                    {"state", state},
                    {"cells", p.cells},
                    {"iterations", p.iterations},
                    {"seconds", p.seconds},
                    {"memory_bytes", p.bytes}});
  }
  console.table(rows);
  console.line(left > 0 ? fmt::format("left       {:.0f} of {} runs, about {} and {:.1f} GB", left,
                                      plan.size(), clock_time(seconds), bytes / 1e9)
                        : "left       nothing: all is done");
  console.line("folder     " + folder.string());
  console.json(dumped({{"folder", folder.string()},
                       {"runs", list},
                       {"seconds", seconds},
                       {"memory_bytes", bytes}}));
}

void show_cluster_plan(const std::vector<PlannedRun>& plan, const std::filesystem::path& folder,
                       Console& console) {
  Rows rows = {{"run", console.units().speed.name, "cells", "ranks", "first GB", "others GB",
                "mesh", "flow", "core hours"}};
  Json list = Json::array();
  double hours = 0;
  for (const PlannedRun& p : plan) {
    if (!(p.iterations > 0)) continue;
    const ClusterNeed n = cluster_need(p);
    rows.push_back({name_of(p, plan), fmt::format("{:.4g}", p.speed / console.units().speed.size),
                    fmt::format("{:.0f}", p.cells), fmt::format("{}", n.ranks),
                    fmt::format("{:.2f}", n.first_bytes / 1e9),
                    fmt::format("{:.2f}", n.rank_bytes / 1e9),
                    n.mesh_seconds > 0 ? clock_time(n.mesh_seconds) : "",
                    clock_time(n.flow_seconds), fmt::format("{:.2f}", n.core_hours())});
    hours += n.core_hours();
    list.push_back({{"folder", p.folder.string()},
                    {"cells", p.cells},
                    {"ranks", n.ranks},
                    {"first_process_bytes", n.first_bytes},
                    {"rank_bytes", n.rank_bytes},
                    {"mesh_seconds", n.mesh_seconds},
                    {"flow_seconds", n.flow_seconds},
                    {"core_hours", n.core_hours()}});
  }
  if (rows.size() == 1) {
    console.line("left       nothing: all is done");
  } else {
    console.table(rows);
    console.line(fmt::format("left       {} of {} runs, {:.1f} core hours", rows.size() - 1,
                             plan.size(), hours));
    console.line("           the first process makes the mesh and holds it: ask for its memory");
    console.line("           50 000 cells a rank, assumed to be used to 80 %");
  }
  console.line("folder     " + folder.string());
  console.json(dumped({{"folder", folder.string()}, {"runs", list}, {"core_hours", hours}}));
}

void show_list(const std::vector<StoredRun>& runs, Console& console) {
  if (runs.empty()) return console.line("no results here, or none that fit");
  const bool lattices =
      std::any_of(runs.begin(), runs.end(), [](const StoredRun& r) { return r.lattice > 1; });
  const DisplayUnits& u = console.units();
  Rows rows = {{"variant", u.speed.name, "recipe", "cells", "CD", "CL",
                fmt::format("CD*A {}", u.area.name), fmt::format("drag {}", u.force.name), "status",
                "folder"}};
  for (const StoredRun& r : runs)
    rows.push_back({r.variant + (r.settings.empty() ? "" : ", " + r.settings) +
                        (lattices ? fmt::format(", lattice {}", r.lattice) : ""),
                    fmt::format("{:.4g}", r.speed / u.speed.size), r.recipe,
                    fmt::format("{}", r.cells),
                    fmt::format("{:.{}f} ± {:.{}f}", r.cd, drag_decimals(r.cd), r.cd_half_interval,
                                drag_decimals(r.cd)),
                    fmt::format("{:+.3f} ± {:.3f}", r.cl, r.cl_half_interval),
                    u.in(u.area, r.drag_area, 3), u.in(u.force, r.drag, 1), r.status, r.folder});
  console.table(rows);
}

Json stored_json(const StoredRun& r) {
  Json j = Json::object();
  const std::vector<std::string>& names = index_columns();
  const std::vector<CsvCell> values = index_values(r);
  for (std::size_t i = 0; i < names.size(); ++i) {
    const auto& v = values[i].value;
    if (const auto* words = std::get_if<std::string>(&v)) j[names[i]] = *words;
    if (const auto* number = std::get_if<double>(&v)) j[names[i]] = *number;
    if (const auto* count = std::get_if<int>(&v)) j[names[i]] = *count;
  }
  return j;
}

void show_parts(const Record& r, Console& console) {
  const double qa = r.reference.dynamic_pressure() * r.reference.frontal_area;
  const int decimals = drag_decimals(r.last.cd);
  const DisplayUnits& u = console.units();
  Rows rows = {{"part", fmt::format("area {}", u.area.name), "y+", "CD", "of it pressure",
                "friction", "CL", fmt::format("drag {}", u.force.name)}};
  const auto add = [&](const std::string& name, double area, const std::string& y_plus,
                       const Load& pressure, const Load& friction) {
    const double p = pressure.force.x / qa, f = friction.force.x / qa;
    const auto drag = [&](double cd) { return fmt::format("{:.{}f}", cd, decimals); };
    rows.push_back({name, u.in(u.area, area, 3), y_plus, drag(p + f), drag(p), drag(f),
                    fmt::format("{:+.4f}", (pressure.force.z + friction.force.z) / qa),
                    u.in(u.force, pressure.force.x + friction.force.x, 1)});
  };
  double area = 0;
  for (const PartLoad& p : r.balance.parts) {
    area += p.area;
    if (p.area > 0)
      add(p.part, p.area, fmt::format("{:.0f}", p.mean_y_plus), p.pressure, p.friction);
    else if (norm2(p.pressure.force) > 0)  // what acts inside the air
      add(p.part, 0, "", p.pressure, p.friction);
  }
  add("all", area, "", r.balance.pressure(), r.balance.friction());
  console.table(rows);
}

Json figures_json(const Figures& r) {
  return {{"variant", r.run.variant},
          {"speed_m_s", r.run.speed},
          {"settings", to_json(r.run.settings)},
          {"status", words(r.status)},
          {"why", r.why},
          {"iterations", r.iterations},
          {"cells", r.cells},
          {"CD", r.cd.mean},
          {"CD_half_interval_95", r.cd.half_interval},
          {"CL", r.cl.mean},
          {"CL_half_interval_95", r.cl.half_interval},
          {"CLF", r.clf.mean},
          {"CLR", r.clr.mean},
          {"CY", r.cy.mean},
          {"drag_N", r.drag},
          {"lift_N", r.lift},
          {"side_N", r.side},
          {"frontal_area_m2", r.frontal_area},
          {"seconds", r.seconds}};
}

Json comparison_json(const std::vector<Figures>& runs, const std::string& baseline,
                     const Wants& wants) {
  Json list = Json::array();
  for (const Comparison& c : compare(runs, baseline))
    for (const ComparisonRow& r : c.rows) {
      Json j = figures_json(r.run);
      const auto add = [&](const std::string& key, const std::string& unit,
                           const std::optional<Difference>& d) {
        if (!d) return;
        j[key + "_difference" + unit] = d->value;
        j[key + "_difference_uncertainty" + unit] = d->uncertainty;
      };
      add("drag", "_N", r.drag), add("CD", "", r.cd), add("CL", "", r.cl);
      add("CLF", "", r.clf), add("CLR", "", r.clr);
      j["verdict"] = verdict_in_words(r, wants);
      j["lattices"] = r.lattices, j["pairs"] = r.pairs;
      list.push_back(j);
    }
  return list;
}

}  // namespace dunefield::tool
