// Commands on campaigns: mesh, run, look.
#include "commands.hpp"

#include "campaign_console.hpp"
#include "tables.hpp"

#include <fmt/format.h>
#include <dunefield/base/text_file.hpp>
#include <dunefield/dunefield.hpp>
#include <dunefield/look/mesh_picture.hpp>
#include <dunefield/mesh/mesh_findings.hpp>

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;

void write_report(const CampaignSetup& setup, const fs::path& runs, const fs::path& into,
                  Console& console) {
  const Progress progress{
      [&](const std::string& stage, double) { console.progress("report     " + stage); },
      stop_requested};
  write_text(into, report_page(setup, runs, {DUNEFIELD_VERSION}, progress));
  console.line("report     " + into.string());
}

int run_prepared(const CampaignSetup& setup, const WantedRuns& wanted, const fs::path& folder,
                 bool wants_report, const Ranks& ranks, Console& console) {
  const std::vector<MatrixRun> matrix = matrix_with(wanted, setup);
  show_setup(setup, console);
  ConsoleWatcher watcher(setup, console);
  const CampaignResult result =
      run_campaign(setup, folder, ranks, watcher, console_progress(console), matrix);
  const int code = result.stopped    ? exit_code::stopped
                   : result.failures ? exit_code::failed
                                     : exit_code::done;
  if (!ranks.is_root()) return code;
  const std::string& baseline = setup.campaign.baseline;
  show_comparison(result.runs, baseline, setup.campaign.wants, console);
  show(derived_tables(result.runs, setup.campaign), console);
  console.json(dumped({{"campaign", setup.campaign.name},
                       {"folder", folder.string()},
                       {"stopped", result.stopped},
                       {"failures", result.failures},
                       {"findings", findings_json(setup.findings)},
                       {"runs", comparison_json(result.runs, baseline, setup.campaign.wants)},
                       {"derived", derived_json(result.runs, setup.campaign)}}));
  if (result.elsewhere > 0)
    console.line(
        fmt::format("elsewhere  {} runs are being computed by other processes; repeat the "
                    "command to compare them when they have finished",
                    result.elsewhere));
  if (result.stopped)
    console.line("stopped on request; repeat the command to resume");
  else if (wants_report && watcher.computed() && !result.runs.empty())
    write_report(setup, folder, default_report(folder), console);
  else if (wants_report && fs::exists(default_report(folder)))  // nothing is new
    console.line("report     " + default_report(folder).string() +
                 " (unchanged; `dunefield report` rewrites it)");
  return code;
}

GuessOptions guess_options(const SurfaceArguments& a) {
  GuessOptions o;
  if (!a.unit.empty()) o.unit = a.unit;
  if (!a.nose.empty()) o.nose = a.nose;
  if (!a.up.empty()) o.up = a.up;
  if (!a.road.empty()) o.road = parse_quantity(a.road, Dimension::length, "--road");
  if (!a.recipe.empty()) o.recipe = a.recipe;
  if (a.half || a.whole) o.half = a.half;
  if (!a.speeds.empty()) o.speeds.clear();
  for (const std::string& s : a.speeds) {
    o.speeds.push_back(parse_quantity(s, Dimension::speed, "--speed"));
    if (!(o.speeds.back() > 0))
      throw InputError("'" + s + "' is no speed", "--speed", "write one like \"90 km/h\"");
  }
  return o;
}

/// The campaign of a file, or the one that surfaces alone give.
CampaignSetup setup_of(const std::vector<std::string>& files, const SurfaceArguments& surface,
                       Console& console) {
  const bool campaign = files.size() == 1 && fs::path(files.front()).extension() == ".toml";
  if (campaign) {
    if (surface.given())
      throw InputError("unit, nose, up, road, recipe, speed and half are the campaign file's",
                       files.front(), "change them there");
    return prepare(read_campaign(files.front()));
  }
  console.progress("guessing how it stands");
  const FirstGuess guess = first_guess({files.begin(), files.end()}, guess_options(surface));
  for (const std::string& l : guess.in_words) console.line(l);
  console.line();
  return prepare(guess.campaign);
}

}  // namespace

int start(const std::vector<std::string>& files, const SurfaceArguments& surface,
          const fs::path& into, Console& console) {
  const fs::path file = into.empty() ? fs::path(files.front()).replace_extension(".toml") : into;
  if (fs::exists(file))
    throw InputError("there is such a file already", file.string(),
                     "choose another name with --into");
  console.progress("guessing how it stands");
  const FirstGuess guess = first_guess({files.begin(), files.end()}, guess_options(surface));
  CampaignSetup setup = prepare(guess.campaign);
  console.progress("looking for cavities");
  const RunSetup& first = setup.variants.front();
  const std::vector<Cavity> cavities =
      find_cavities(first.vehicle.surface, first.tunnel_box(), first.mesh_options());
  report_cavities(cavities, setup.findings);
  for (const std::string& l : guess.in_words) console.line(l);
  console.line();
  show_setup(setup, console);
  write_text(file, campaign_text(guess, file.parent_path()));
  console.line("written    " + file.string());
  console.line(fmt::format("next       dunefield run {}", file.string()));
  console.json(dumped({{"campaign_file", file.string()},
                       {"unit", guess.unit},
                       {"nose", guess.campaign.placing.nose},
                       {"up", guess.campaign.placing.up},
                       {"half", guess.campaign.tunnel.half},
                       {"cavities", to_json(cavities)},
                       {"findings", findings_json(setup.findings)}}));
  return exit_code::done;
}

int mesh(const std::vector<std::string>& files, const SurfaceArguments& surface,
         const std::string& variant, const fs::path& into, bool cgns, Console& console) {
  const CampaignSetup setup = setup_of(files, surface, console);
  const RunSetup& of = setup.variants[variant.empty() ? 0 : wanted_variant(setup, variant)];
  const fs::path folder = into.empty() ? default_folder(setup.campaign) : into;
  check_writable(folder);
  show_setup(setup, console);
  const MeshOptions options = of.mesh_options();
  if (of.mesh_file.empty())
    console.line(fmt::format("expected   about {:.0f} cells", expected_cells(of)));
  const MeshResult m = build_mesh(of, console_progress(console));
  show_quality(m, of, console);
  const Vec3 t = m.tunnel.size();
  const bool half = setup.campaign.tunnel.half;
  const int sides = half ? 2 : 1;
  const double displaced = sides * (t.x * t.y * t.z - air_volume(m.mesh)),
               wetted = sides * wetted_area(m.mesh);
  console.line(fmt::format("surface    {:.3f} m2 wetted, {:.4f} m3 displaced{}", wetted, displaced,
                           m.fit.wall_points
                               ? fmt::format("; {} of {} wall points at their accurate place",
                                             m.fit.arrived, m.fit.wall_points)
                               : ""));
  const fs::path out = folder / (cgns ? "mesh.cgns" : "mesh.vtu");
  if (cgns)
    write_cgns(out, m.mesh, {{"CellVolume", &m.mesh.cell_volume}});
  else
    write_vtu(out, m.mesh, {{"cell volume [m3]", m.mesh.cell_volume, {}}});
  const std::string title = setup.campaign.name + ", " + of.vehicle.name;
  draw_mesh_surface(folder / "mesh-surface.png", m.mesh, m.quality, half,
                    title + ": mesh on the surface");
  draw_mesh_cut(folder / "mesh-cut.png", m.mesh, half ? 0.25 * options.surface_size : 0.0,
                options.surface_size, title + ": cells");
  draw_mesh_quality(folder / "mesh-quality.png", m.quality, title + ": quality of the mesh");
  console.line(
      fmt::format("written    {}, mesh-surface.png, mesh-cut.png, mesh-quality.png", out.string()));
  console.json(dumped({{"variant", of.vehicle.name},
                       {"cells", m.quality.cells},
                       {"seconds", m.seconds},
                       {"quality", quality_json(m.quality)},
                       {"layers", layers_json(m.layers)},
                       {"gaps", gaps_json(m.gaps)},
                       {"wetted_area_m2", wetted},
                       {"displaced_volume_m3", displaced},
                       {"file", out.string()},
                       {"findings", findings_json(m.findings)}}));
  return exit_code::done;
}

int plan(const std::vector<std::string>& files, const SurfaceArguments& surface,
         const WantedRuns& wanted, const fs::path& into, const Ranks& ranks, bool cluster,
         Console& console) {
  const CampaignSetup setup = setup_of(files, surface, console);
  const std::vector<MatrixRun> matrix = matrix_with(wanted, setup);
  show_setup(setup, console);
  const fs::path folder = into.empty() ? default_folder(setup.campaign) : into;
  console.line();
  const auto runs = plan_of(setup, folder, ranks.count(), console_progress(console), matrix);
  if (cluster)
    show_cluster_plan(runs, folder, console);
  else
    show_plan(runs, folder, console);
  return exit_code::done;
}

int run(const std::vector<std::string>& files, const SurfaceArguments& surface,
        const WantedRuns& wanted, const fs::path& into, bool report, const Ranks& ranks,
        Console& console) {
  const CampaignSetup setup = setup_of(files, surface, console);
  return run_prepared(setup, wanted, into.empty() ? default_folder(setup.campaign) : into, report,
                      ranks, console);
}

int report(const fs::path& file, const fs::path& runs, const fs::path& into, Console& console) {
  const CampaignSetup setup = prepare(read_campaign(file));
  const fs::path folder = runs.empty() ? default_folder(setup.campaign) : runs;
  const fs::path target = into.empty() ? default_report(folder) : into;
  write_report(setup, folder, target, console);
  console.json(dumped({{"report", target.string()}}));
  return exit_code::done;
}

}  // namespace dunefield::tool
