#include "commands.hpp"

#include <atomic>
#include <chrono>
#include <csignal>
#include <ctime>
#include <optional>

#include <fmt/format.h>
#include <demo/garage.hpp>
#include <dunefield/campaign/json.hpp>
#include <dunefield/dunefield.hpp>
#include <dunefield/look/mesh_picture.hpp>

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;

std::atomic<int> interrupts{0};

Progress console_progress(Console& console) {
  return {[&console](const std::string& stage, double share) {
            console.progress(fmt::format("meshing    {:3.0f} %  {}", 100 * share, stage));
          },
          stop_requested};
}

void show_quality(const MeshResult& m, const CampaignSetup& setup, Console& console) {
  const MeshQuality& q = m.quality;
  console.line(fmt::format(
      "mesh       {} cells in {:.1f} s; all closed ({:.0e}); {}", q.cells, m.seconds,
      q.worst_closure,
      q.good()
          ? "every face within the limits"
          : "some faces are beyond the limits: the flow may need more iterations or back off"));
  std::vector<std::vector<std::string>> rows = {
      {"measure", "mean", "worst", "limit", "beyond", "at m"}};
  for (const MeasureSummary& s : q.summary) {
    const Vec3 p = s.worst.empty() ? Vec3{} : s.worst[0].place;
    rows.push_back(
        {s.name + (s.unit.empty() ? "" : " " + s.unit), fmt::format("{:.3g}", s.mean),
         fmt::format("{:.3g}", s.worst_value()), fmt::format("{:.3g}", s.limit),
         s.beyond ? fmt::format("{} ({:.3f} %)", s.beyond, 100 * s.share_beyond()) : "none",
         fmt::format("({:.3f}, {:.3f}, {:.3f})", p.x, p.y, p.z)});
  }
  console.table(rows);
  if (m.merged > 0)
    console.line(fmt::format(
        "mended     {} cells that were too flat or too small were merged with a neighbour",
        m.merged));
  if (m.layers.cells > 0) {
    console.line(
        fmt::format("layers     {} cells; all layers over {:.1f} % of the wall, 80 % of the "
                    "thickness over {:.1f} %",
                    m.layers.cells, 100 * m.layers.full_share(), 100 * m.layers.thick_share()));
    std::vector<std::vector<std::string>> parts = {{"part", "area m2", "all layers %",
                                                    "80 % thick %", "even step %",
                                                    "first height mm", "y+ about"}};
    for (const PartLayers& p : m.layers.parts)
      parts.push_back(
          {p.part, fmt::format("{:.3f}", p.area), fmt::format("{:.1f}", 100 * p.full_share),
           fmt::format("{:.1f}", 100 * p.thick_share), fmt::format("{:.1f}", 100 * p.step_share),
           fmt::format("{:.2f}", 1000 * p.mean_first_height),
           fmt::format("{:.0f}", expected_y_plus(setup, p.mean_first_height))});
    console.table(parts);
  }
  console.show(m.findings);
}

/// "0.3691 ± 0.0012"
std::string with_interval(const WindowMean& w, int digits) {
  return fmt::format("{:.{}f} ± {:.{}f}", w.mean, digits, w.half_interval, digits);
}

void show_comparison(const std::vector<RunFigures>& runs, const std::string& recipe,
                     Console& console) {
  for (const Comparison& c : compare(runs, recipe)) {
    console.line();
    console.heading(fmt::format("{:.4g} km/h", 3.6 * c.speed));
    std::vector<std::vector<std::string>> rows = {{"variant", "CD", "CL", "CLF", "CLR", "CD*A m2",
                                                   "drag N", "change N", "change %", "verdict"}};
    for (const ComparisonRow& r : c.rows) {
      const bool base = r.verdict == Verdict::baseline;
      const double base_drag = c.rows.front().run.drag;
      rows.push_back(
          {r.run.variant, with_interval(r.run.cd, 4), fmt::format("{:.3f}", r.run.cl.mean),
           fmt::format("{:.3f}", r.run.clf.mean), fmt::format("{:.3f}", r.run.clr.mean),
           fmt::format("{:.3f}", r.run.cd.mean * r.run.reference.frontal_area),
           fmt::format("{:.1f}", r.run.drag),
           base ? "" : fmt::format("{:+.1f} ± {:.1f}", r.drag_difference, r.drag_uncertainty),
           base ? ""
                : fmt::format("{:+.1f} ± {:.1f}", 100 * r.drag_difference / base_drag,
                              100 * r.drag_uncertainty / base_drag),
           words(r.verdict)});
    }
    console.table(rows);
  }
  if (!runs.empty() && runs.front().half)
    console.line("\nForces are those of the whole vehicle, mirrored from one half.");
  for (const RunFigures& r : runs)
    if (r.status != words(RunStatus::steady) && r.status != words(RunStatus::fluctuating))
      console.line(
          fmt::format("warning    {} at {:.4g} km/h: {}", r.variant, 3.6 * r.speed, r.status));
}

Json figures_json(const RunFigures& r) {
  return {{"variant", r.variant},
          {"speed_m_s", r.speed},
          {"status", r.status},
          {"iterations", r.iterations},
          {"cells", r.cells},
          {"CD", r.cd.mean},
          {"CD_half_interval_95", r.cd.half_interval},
          {"CL", r.cl.mean},
          {"CLF", r.clf.mean},
          {"CLR", r.clr.mean},
          {"CY", r.cy.mean},
          {"drag_N", r.drag},
          {"lift_N", r.lift},
          {"side_N", r.side},
          {"frontal_area_m2", r.frontal_area},
          {"seconds", r.seconds}};
}

Json comparison_json(const std::vector<RunFigures>& runs, const std::string& recipe) {
  Json list = Json::array();
  for (const Comparison& c : compare(runs, recipe))
    for (const ComparisonRow& r : c.rows) {
      Json j = figures_json(r.run);
      j["drag_difference_N"] = r.drag_difference;
      j["drag_difference_uncertainty_N"] = r.drag_uncertainty;
      j["CD_difference"] = r.cd_difference;
      j["CL_difference"] = r.cl_difference;
      j["verdict"] = words(r.verdict);
      list.push_back(j);
    }
  return list;
}

void show_setup(const CampaignSetup& setup, Console& console) {
  console.heading(setup.campaign.name);
  for (const auto& l : describe(setup)) console.line(l);
  console.show(setup.findings);
}

}  // namespace

namespace {
std::optional<std::chrono::steady_clock::time_point> deadline;
}

bool stop_requested() {
  return interrupts > 0 || (deadline && std::chrono::steady_clock::now() > *deadline);
}

void set_time_limit(const std::string& limit) {
  if (limit.empty()) return;
  const double seconds = parse_quantity(limit, Dimension::time, "--time-limit");
  if (!(seconds > 0))
    throw InputError("'" + limit + "' is no time to run", "--time-limit",
                     "write a time like \"90 min\"");
  deadline = std::chrono::steady_clock::now() +
             std::chrono::duration_cast<std::chrono::steady_clock::duration>(
                 std::chrono::duration<double>(seconds));
}

void catch_interrupt() {
  const auto handler = [](int signal) {
    // A second Ctrl-C means now. Launchers may deliver one twice, so that it counts only after a
    // moment.
    static std::atomic<std::time_t> first{0};
    const std::time_t now = std::time(nullptr);
    if (++interrupts == 1) {
      first = now;
    } else if (now > first + 1) {
      std::signal(signal, SIG_DFL);
      std::raise(signal);
    }
  };
  std::signal(SIGINT, handler);
  std::signal(SIGTERM, handler);
}

int mesh(const fs::path& file, const std::string& variant, const fs::path& into, bool cgns,
         Console& console) {
  const CampaignSetup setup = prepare(read_campaign(file));
  const auto it = variant.empty()
                      ? setup.variants.begin()
                      : std::find_if(setup.variants.begin(), setup.variants.end(),
                                     [&](const PlacedVariant& v) { return v.name == variant; });
  if (it == setup.variants.end())
    throw InputError("there is no variant '" + variant + "'", file.string(),
                     "name one of the file");
  const fs::path folder = into.empty() ? default_folder(setup.campaign) : into;
  check_writable(folder);
  show_setup(setup, console);
  if (it->mesh_file.empty())
    console.line(fmt::format("expected   about {:.0f} cells",
                             predict_cells(it->vehicle, setup.tunnel, it->mesh)));
  const MeshResult m = mesh_of_variant(setup, *it, console_progress(console));
  show_quality(m, setup, console);
  const Vec3 t = m.tunnel.size();
  const double displaced = t.x * t.y * t.z - air_volume(m.mesh);
  const int sides = setup.campaign.tunnel.half ? 2 : 1;
  console.line(fmt::format("surface    {:.3f} m2 wetted, {:.4f} m3 displaced{}",
                           sides * wetted_area(m.mesh), sides * displaced,
                           m.fit.wall_points
                               ? fmt::format("; {} of {} wall points at their accurate place",
                                             m.fit.arrived, m.fit.wall_points)
                               : ""));
  const fs::path out = folder / (cgns ? "mesh.cgns" : "mesh.vtu");
  if (cgns)
    write_cgns(out, m.mesh, {{"CellVolume", &m.mesh.cell_volume}});
  else
    write_vtu(out, m.mesh, {{"cell volume [m3]", m.mesh.cell_volume, {}}});
  const std::string title = setup.campaign.name + ", " + it->name;
  const fs::path surface = folder / "mesh-surface.png", cut = folder / "mesh-cut.png",
                 quality = folder / "mesh-quality.png";
  const bool half = setup.campaign.tunnel.half;
  draw_mesh_surface(surface, m.mesh, m.quality, half, title + ": mesh on the surface");
  draw_mesh_cut(cut, m.mesh, half ? 0.25 * it->mesh.surface_size : 0.0, it->mesh.surface_size,
                title + ": cells");
  draw_mesh_quality(quality, m.quality, title + ": quality of the mesh");
  console.line(
      fmt::format("written    {}, mesh-surface.png, mesh-cut.png, mesh-quality.png", out.string()));
  console.json(dumped({{"variant", it->name},
                       {"cells", m.quality.cells},
                       {"seconds", m.seconds},
                       {"quality", quality_json(m.quality)},
                       {"layers", layers_json(m.layers)},
                       {"gaps", gaps_json(m.gaps)},
                       {"wetted_area_m2", sides * wetted_area(m.mesh)},
                       {"displaced_volume_m3", sides * displaced},
                       {"file", out.string()},
                       {"findings", findings_json(m.findings)}}));
  return exit_code::done;
}

int run(const fs::path& file, const fs::path& into, const Ranks& ranks, Console& console) {
  const CampaignSetup setup = prepare(read_campaign(file));
  const fs::path folder = into.empty() ? default_folder(setup.campaign) : into;
  show_setup(setup, console);
  CampaignObserver observer;
  observer.begins = [&](int number, int total, const std::string& variant, double speed,
                        bool skipped) {
    if (!skipped || number == 1) console.line();
    console.heading(fmt::format("run {} of {}: {} at {:.4g} km/h{}", number, total, variant,
                                3.6 * speed, skipped ? " (already done)" : ""));
  };
  observer.meshed = [&](const MeshResult& m) { show_quality(m, setup, console); };
  observer.run.progress = console_progress(console);
  observer.run.row = [&](const HistoryRow& h, double left) {
    console.progress(
        fmt::format("running    {:4}  residual {:.1e}  CD {:.4f}  CL {:+.4f}  at most {} left",
                    h.iteration, h.momentum_residual, h.c.cd, h.c.cl, clock_time(left)));
  };
  observer.ended = [&](const RunFigures& r, const Findings& findings, const fs::path& where) {
    console.show(findings);
    console.line(fmt::format("{:<10} {} iterations, {}; CD {}, CL {}, drag {:.1f} N, {:.0f} W",
                             r.status == words(RunStatus::not_converged) ? "ended" : r.status,
                             r.iterations, clock_time(r.seconds), with_interval(r.cd, 4),
                             with_interval(r.cl, 3), r.drag, r.drag * r.speed));
    console.line("written    " + where.string());
  };
  observer.failed = [&](const std::string& why) { console.error(why); };
  const CampaignResult result = run_campaign(setup, folder, ranks, observer);
  const int code = result.stopped    ? exit_code::stopped
                   : result.failures ? exit_code::failed
                                     : exit_code::done;
  if (!ranks.is_root()) return code;
  show_comparison(result.runs, setup.campaign.recipe, console);
  console.json(dumped({{"campaign", setup.campaign.name},
                       {"folder", folder.string()},
                       {"stopped", result.stopped},
                       {"failures", result.failures},
                       {"findings", findings_json(setup.findings)},
                       {"runs", comparison_json(result.runs, setup.campaign.recipe)}}));
  if (result.stopped)
    console.line("stopped on request; the same command goes on with what is not done");
  return code;
}

int look(const fs::path& file, const fs::path& into, Console& console) {
  const fs::path folder = into.empty() ? default_folder(read_campaign(file)) : into;
  const auto runs = running_below(folder);
  if (runs.empty())
    throw InputError("no run goes on here at present", folder.string(),
                     "results of finished runs are in the folders below it");
  Json list = Json::array();
  for (const fs::path& run : runs) {
    constexpr double patience = 120;  // s: an iteration of a large mesh, and the pictures
    ask_for_look(run, patience, console_progress(console));
    const fs::path where = look_folder(run);
    const RunFigures f = read_balance(where / "balance.json");
    console.heading(fmt::format("{} at {:.4g} km/h", f.variant, 3.6 * f.speed));
    console.line(fmt::format(
        "now        iteration {}; CD {}, CL {}, drag {:.1f} N; by now it would count as {}",
        f.iterations, with_interval(f.cd, 4), with_interval(f.cl, 3), f.drag, f.status));
    console.line(fmt::format(
        "written    {}: history.png, pressure.png, speed.png, build-up.png, balance.json",
        where.string()));
    list.push_back(figures_json(f));
    list.back()["folder"] = where.string();
  }
  console.json(dumped({{"runs", list}}));
  return exit_code::done;
}

int demo(const std::string& name, const fs::path& folder, bool only_files, const Ranks& ranks,
         Console& console) {
  const fs::path file =
      ranks.is_root() ? garage::write_demo(name, folder) : folder / (name + ".toml");
  if (ranks.processes) ranks.processes->any(false);  // all wait for the files
  console.line("the demo's files are in " + folder.string());
  if (only_files) {
    console.json(dumped({{"campaign_file", file.string()}}));
    return exit_code::done;
  }
  return run(file, {}, ranks, console);
}

}  // namespace dunefield::tool
