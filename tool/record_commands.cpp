// Commands on records: show, list, compare, explain.
#include "commands.hpp"

#include "tables.hpp"

#include <fmt/format.h>
#include <dunefield/base/csv.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/dunefield.hpp>

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;

std::string listed(const std::vector<std::string>& names) {
  std::string out;
  for (const std::string& n : names) out += (out.empty() ? "" : ", ") + n;
  return out;
}

std::string named(const Quantity& q) {
  return q.name + (q.unit.empty() ? "" : " (" + q.unit + ")");
}

void show_results(const Record& r, Console& console) {
  const Figures f = r.figures();
  console.line(fmt::format("result     {}; {} iterations in {}", r.brief(), f.iterations,
                           clock_time(r.seconds)));
  // That of every other status stands among the findings.
  if (r.status == RunStatus::stopped && !r.why().empty()) console.line("           " + r.why());
  const DisplayUnits& u = console.units();
  console.line(fmt::format("lift       front {}, rear {}; drag area {} {}, {}",
                           with_interval(f.clf, 3), with_interval(f.clr, 3),
                           u.in(u.area, f.cd.mean * f.reference.frontal_area, 3), u.area.name,
                           u.power_text(f.drag * f.run.speed)));
  console.line(fmt::format(
      "checks     drag from the stream's momentum {:.1f} N, from a wake plane {:.1f} N, integrated "
      "{:.1f} N (last iteration); mass closes to {:.0e}",
      r.balance.momentum_drag, r.checks.wake_drag, r.balance.total().force.x,
      std::abs(r.checks.mass_balance)));
  console.line();
  console.line("Parts at the last iteration; the result above is a mean over many:");
  show_parts(r, console);
  show({devices_table(r.balance.devices, console.units())}, console);
}

std::vector<std::string> files_in(const fs::path& folder) {
  std::vector<std::string> names;
  for (const auto& entry : fs::directory_iterator(folder))
    names.push_back(entry.path().filename().string());
  std::sort(names.begin(), names.end());
  return names;
}

Json show_json(const Record& r, const fs::path& folder) {
  Json quantities_list = Json::array();
  for (const Quantity& q : quantities(r))
    quantities_list.push_back({{"name", q.name},
                               {"unit", q.unit},
                               {"vector", q.vector},
                               {"in_air", q.in_air},
                               {"on_wall", q.on_wall}});
  Json j = figures_json(r.figures());
  j["campaign"] = r.run.campaign;
  j["recipe"] = r.run.recipe;
  j["usable"] = r.usable();
  j["hashes"] = {{"mesh", r.run.hashes.mesh},
                 {"flow", r.run.hashes.flow},
                 {"readings", r.run.hashes.readings}};
  j["quantities"] = quantities_list;
  j["files"] = files_in(folder);
  j["findings"] = findings_json(r.findings);
  j["mesh_findings"] = findings_json(r.mesh_findings);
  return j;
}

/// What the mesh changes of the shape; its notes are many, and in the file.
void show_mesh_findings(const Record& r, Console& console) {
  Findings warnings;
  for (const Finding& f : r.mesh_findings)
    if (f.level == Finding::Level::warning) warnings.warn(f.text);
  console.show(warnings);
  if (const std::size_t notes = r.mesh_findings.size() - warnings.size(); notes > 0)
    console.line(fmt::format("note       {} {} on the mesh in {}", notes,
                             notes == 1 ? "note" : "notes", record_file::numbers));
}

/// Runs beside this one that differ from it in speed only.
std::vector<Figures> at_all_speeds(const Record& r, const fs::path& folder) {
  std::vector<Figures> runs = {r.figures()};
  for (const auto& entry : fs::directory_iterator(fs::absolute(folder / "..").lexically_normal())) {
    if (!fs::exists(entry.path() / record_file::numbers)) continue;
    const Figures f = read_figures(entry.path());
    const bool alike = f.run.variant == r.run.variant && f.run.recipe == r.run.recipe &&
                       f.run.settings == r.run.settings && f.run.lattice == r.run.lattice &&
                       f.run.campaign == r.run.campaign && f.settled();
    if (alike && f.run.speed != r.run.speed) runs.push_back(f);
  }
  return runs;
}

Json show_at_speed(const Record& r, const fs::path& folder, const std::string& speed,
                   Console& console) {
  const double v = parse_quantity(speed, Dimension::speed, "--at");
  if (!(v > 0))
    throw InputError("'" + speed + "' is no speed", "--at", "write one like \"130 km/h\"");
  const AtSpeed a = at_speed(at_all_speeds(r, folder), v, r.air.kinematic_viscosity);
  const DisplayUnits& u = console.units();
  console.line();
  console.line(fmt::format(
      "at {}  CD {:.4f}, CL {:+.3f}, drag {} {}, lift {} {}, {}; Reynolds number {:.2g}",
      u.speed_text(v), a.cd, a.cl, u.in(u.force, a.drag, 1), u.force.name, u.in(u.force, a.lift, 1),
      u.force.name, u.power_text(a.power), a.reynolds));
  console.line(fmt::format("           {} (run: Reynolds numbers {:.2g} to {:.2g})",
                           a.within()
                               ? "between speeds that were run"
                               : "beyond what was run: coefficients are those of the nearest",
                           a.least_reynolds, a.most_reynolds));
  return {{"speed_m_s", v},
          {"CD", a.cd},
          {"CL", a.cl},
          {"drag_N", a.drag},
          {"lift_N", a.lift},
          {"power_W", a.power},
          {"reynolds", a.reynolds},
          {"within_what_was_run", a.within()}};
}

}  // namespace

int show(const fs::path& folder, bool again, const std::string& speed, Console& console) {
  console.progress("opening");
  const Record r = Record::open(folder, {[](const std::string&, double) {}, stop_requested});
  console.heading(fmt::format("{}{}{} at {}", r.run.campaign, r.run.campaign.empty() ? "" : ", ",
                              r.run.variant, console.units().speed_text(r.run.speed)));
  for (const std::string& l : r.setup_in_words) console.line(l);
  console.line(
      fmt::format("cells      {}, {} layers on the vehicle", r.quality.cells, r.run.layers));
  show_results(r, console);
  console.line();
  std::vector<std::string> air, wall;
  for (const Quantity& q : quantities(r)) {
    if (q.in_air) air.push_back(named(q));
    if (q.on_wall) wall.push_back(named(q));
  }
  console.line("in the air " + listed(air));
  console.line("on walls   " + listed(wall));
  show_mesh_findings(r, console);
  console.show(r.findings);
  if (again) {
    const FileLock lock(beside(folder, ".lock"));
    refuse_unless_held(lock, folder);
    console.progress("writing readings, pictures and VTK files");
    write_readings(folder, r, readings_of(r));
    draw_standard_pictures(folder, r);
    for (const std::string& trouble : draw_wanted(folder, r, readings_of(r).pictures))
      console.line("warning    " + trouble);
    write_open_data(folder, r);
    console.line("rewritten  readings, pictures, air.vtu, wall.vtp");
  }
  console.line("files      " + listed(files_in(folder)));
  Json j = show_json(r, folder);
  if (!speed.empty()) j["at_speed"] = show_at_speed(r, folder, speed, console);
  console.json(dumped(j));
  return exit_code::done;
}

namespace {

/// Results that are no longer the campaign's own must not be read as if they were.
void mark_strangers(std::vector<StoredRun>& runs, const CampaignSetup& setup,
                    const fs::path& folder) {
  const auto own = standings(setup, folder);
  for (StoredRun& r : runs) {
    const auto found = std::find_if(own.begin(), own.end(),
                                    [&](const auto& run) { return run.first == r.folder; });
    if (found == own.end())
      r.status = "not in the file";
    else if (found->second == Standing::out_of_date)
      r.status = "out of date";
  }
}

}  // namespace

int list(const ListArguments& a, Console& console) {
  const bool is_campaign = fs::path(a.where).extension() == ".toml";
  const std::optional<CampaignSetup> setup =
      is_campaign ? std::optional(prepare(read_campaign(a.where))) : std::nullopt;
  const fs::path folder = setup ? default_folder(setup->campaign) : fs::path(a.where);
  // What a result is to its campaign is part of its status, which only the file tells.
  RunFilter filter{a.campaign, a.variant, a.recipe, setup ? "" : a.status, 0, a.sort, a.descending};
  if (!a.speed.empty()) filter.speed = parse_quantity(a.speed, Dimension::speed, "--at");
  Findings findings;
  std::vector<StoredRun> runs = stored_runs(folder, filter, findings);
  if (setup) mark_strangers(runs, *setup, folder);
  if (setup && !a.status.empty())
    std::erase_if(runs, [&](const StoredRun& r) { return r.status != a.status; });
  if (a.csv) {
    CsvTable table(index_columns());
    for (const StoredRun& r : runs) table.add(index_values(r));
    console.data(table.text());
    if (!console.wants_json()) console.show_aside(findings);
  } else {
    show_list(runs, console);
    console.show(findings);
  }
  if (!console.wants_json()) return exit_code::done;
  Json rows = Json::array();
  for (const StoredRun& r : runs) rows.push_back(stored_json(r));
  console.json(
      dumped({{"folder", folder.string()}, {"runs", rows}, {"findings", findings_json(findings)}}));
  return exit_code::done;
}

int compare(const std::vector<std::string>& folders, const std::vector<std::string>& wanted,
            Console& console) {
  Wants wants;
  if (!wanted.empty()) wants = {false, false, false, false};
  for (const std::string& w : wanted)
    if (!add_want(wants, w))
      throw InputError("'" + w + "' is not known", "--want",
                       "use \"less drag\", \"more drag\", \"more downforce\" or \"less "
                       "downforce\"");
  std::vector<Figures> runs;
  for (const std::string& f : folders) {
    if (fs::is_regular_file(f)) continue;  // marram.runs/* names the index and the report as well
    runs.push_back(read_figures(f));
    if (runs.size() > 1) check_comparable(runs.front(), runs.back());
    // Two runs of a variant of one name, from two campaigns, are two rows.
    for (std::size_t i = 0; i + 1 < runs.size(); ++i)
      if (runs[i].run.variant == runs.back().run.variant) runs.back().run.variant += " (" + f + ")";
  }
  if (runs.size() < 2)
    throw InputError("two runs at least are needed to compare", folders.front(),
                     "name the folders of runs");
  const std::string baseline = runs.front().run.variant;
  show_comparison(runs, baseline, wants, console);
  for (std::size_t i = 1; i < runs.size(); ++i)
    show({by_part_table(runs[i], runs.front())}, console);
  console.json(dumped({{"baseline", baseline}, {"runs", comparison_json(runs, baseline, wants)}}));
  return exit_code::done;
}

int explain(const std::vector<std::string>& folders, Console& console) {
  console.progress("opening the records");
  const Record baseline = Record::open(folders[0]), run = Record::open(folders[1]);
  const Explanation e = explain(run, baseline);
  const Figures now = run.figures(), before = baseline.figures();
  console.line(compared_briefly(baseline, run));
  show({by_part_table(now, before), by_stretch_table(e, before)}, console);
  Json stretches = Json::array(), parts = Json::array();
  for (const Stretch& s : e.stretches) {
    stretches.push_back({{"from_m", s.from},
                         {"to_m", s.to},
                         {"CD", s.cd},
                         {"pressure", s.pressure},
                         {"friction", s.friction},
                         {"baseline_CD", s.baseline}});
  }
  for (const PartDifference& p : e.parts)
    parts.push_back({{"part", p.part}, {"CD", p.cd}, {"CL", p.cl}});
  console.json(dumped({{"baseline", before.run.variant},
                       {"variant", now.run.variant},
                       {"CD", now.cd.mean - before.cd.mean},
                       {"last_states_CD", e.last_state},
                       {"parts", parts},
                       {"stretches", stretches}}));
  return exit_code::done;
}

}  // namespace dunefield::tool
