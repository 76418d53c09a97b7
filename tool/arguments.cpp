#include "arguments.hpp"

#include <demo/garage.hpp>

namespace dunefield::tool {
namespace {

CLI::IsMember axes() { return CLI::IsMember({"-x", "+x", "-y", "+y", "-z", "+z"}); }

void add_ranks(CLI::App* c, Arguments& a) {
  c->add_option("--ranks", a.ranks,
                "ranks as threads, and threads for meshing (default: one for each core); under "
                "mpiexec the processes are the ranks")
      ->check(CLI::Range(1, 1024, "1 to 1024"));
}

void add_into(CLI::App* c, Arguments& a) {
  c->add_option("--into", a.into, "folder for the results (default: beside the campaign file)");
}

void add_stance(CLI::App* c, std::string& unit, std::string& nose, std::string& up) {
  c->add_option("--unit", unit, "length unit of the files: m, mm, cm, in, ft (default: guessed)");
  c->add_option("--nose", nose, "where the nose points in the files, like -x (default: guessed)")
      ->check(axes());
  c->add_option("--up", up, "where the roof points in the files, like +z (default: guessed)")
      ->check(axes());
}

void add_surface(CLI::App* c, Arguments& a) {
  SurfaceArguments& s = a.surface;
  add_stance(c, s.unit, s.nose, s.up);
  c->add_option("--road", s.road,
                "height of the road in the files, like \"0 mm\" (default: z = 0 where the vehicle "
                "stands on or above it)");
  c->add_option("--speed", s.speeds, "road speed, like \"90 km/h\"; several may be given");
  c->add_option("--recipe", s.recipe,
                "how fine the mesh is: sketch, scout (default), standard or fine")
      ->check(CLI::IsMember({"sketch", "scout", "standard", "fine"}));
  CLI::Option* half = c->add_flag("--half", s.half, "compute one half and mirror it");
  c->add_flag("--whole", s.whole,
              "compute the whole vehicle (default: half if both sides are alike)")
      ->excludes(half);
}

/// An option that may stand several times, each with one word.
void add_each(CLI::App* c, const std::string& name, std::vector<std::string>& into,
              const std::string& what) {
  c->add_option(name, into, what)
      ->expected(1)
      ->allow_extra_args(false)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
}

void add_campaign_or_surface(CLI::App* c, Arguments& a) {
  c->add_option("campaign", a.files,
                "campaign file (TOML), or STL, OBJ, PLY, STEP, glTF, 3MF files")
      ->required();
  add_into(c, a), add_ranks(c, a), add_surface(c, a);
}

void add_wanted(CLI::App* c, Arguments& a) {
  add_each(c, "--variant", a.wanted.variants,
           "only this one, once for each; what is done of others is compared with it");
  add_each(c, "--at", a.wanted.speeds,
           "only at this speed of the campaign, like \"60 km/h\", once for each");
}

void add_inspect(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand("inspect",
                                   "Say what a surface holds and how healthy it is: parts, size, "
                                   "stance, wheels, holes, flipped and doubled facets, crossings, "
                                   "thickness.");
  c->add_option("surface", a.inspect.files, "STL, OBJ, PLY, STEP, glTF or 3MF files")->required();
  add_stance(c, a.inspect.unit, a.inspect.nose, a.inspect.up);
  c->add_option("--picture", a.inspect.picture, "write a PNG with the findings marked");
  c->footer("Example: dunefield inspect van.stl --unit mm --picture health.png");
}

void add_mend(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand(
      "mend", "Mend a surface and write it as a new file. A dirty surface can be meshed without.");
  c->add_option("surface", a.mend.files, "STL, OBJ, PLY, STEP, glTF or 3MF files")->required();
  c->add_option("--into", a.mend.into, "the file to write (STL)")->required();
  c->add_option("--unit", a.mend.unit, "length unit of the files: m, mm, cm, in, ft");
  c->add_option("--weld", a.mend.weld, "points nearer than that become one, like \"0.1 mm\"");
  c->add_flag("--drop-doubled", a.mend.drop_doubled, "drop facets that are there twice");
  c->add_option("--drop-stray", a.mend.drop_stray, "drop connected pieces smaller than that");
  c->add_flag("--orient", a.mend.orient, "turn facets outward");
  c->add_option("--close", a.mend.close, "close loops of open edges smaller than that");
  add_each(c, "--thicken", a.mend.thicken, "give a sheet a thickness: \"part=2 mm\"");
  c->footer(
      "Example: dunefield mend scan.stl --unit mm --into mended.stl --drop-doubled --orient "
      "--close \"50 mm\"");
}

void add_start(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand(
      "start",
      "Write a commented campaign file for a surface: unit, stance and wheels are guessed and "
      "told.");
  c->add_option("surface", a.files, "STL, OBJ, PLY, STEP, glTF or 3MF files")->required();
  c->add_option("--into", a.into, "the file to write (default: beside the surface, .toml)");
  add_surface(c, a);
  c->footer("Example: dunefield start van.stl --speed \"90 km/h\"");
}

void add_mesh(CLI::App& app, Arguments& a) {
  CLI::App* c =
      app.add_subcommand("mesh", "Mesh a campaign's vehicle and say how good the mesh is.");
  add_campaign_or_surface(c, a);
  c->add_option("--variant", a.variant, "which variant (default: the first)");
  c->add_flag("--cgns", a.cgns,
              "write the mesh as CGNS instead of VTU; a variant can name either file as its mesh");
  c->footer(
      "Example: dunefield mesh marram.toml --variant \"tapered tail\"\n         dunefield mesh "
      "van.stl");
}

void add_plan(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand("plan",
                                   "Say what a campaign will take before anything is made: runs, "
                                   "cells, time, memory, and what is done already.");
  add_campaign_or_surface(c, a);
  add_wanted(c, a);
  c->add_flag("--cluster", a.cluster,
              "say what each run asks of a cluster: ranks, memory of the first and of each other "
              "process, core hours");
  c->footer("Example: dunefield plan marram.toml\n         dunefield plan marram.toml --cluster");
}

void add_run(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand(
      "run",
      "Run all variants at all speeds of a campaign and compare them. What is already done is not "
      "run again. Surfaces run without a campaign file, too.");
  add_campaign_or_surface(c, a);
  add_wanted(c, a);
  c->add_option(
      "--time-limit", a.time_limit,
      "stop after that much time, like \"90 min\", with all saved: the same command goes on");
  c->add_flag_callback(
      "--no-report", [&a] { a.report = false; },
      "no report.html in the folder of the runs at the end");
  c->footer(
      "Example: dunefield run marram.toml\n         dunefield run van.stl --speed \"90 km/h\"\n"
      "         dunefield run marram.toml --variant \"tapered tail\" --at \"60 km/h\"\n"
      "         mpiexec -n 4 dunefield run marram.toml\n"
      "Exit codes: 0 done, 1 failed, 2 wrong arguments, 3 stopped by Ctrl-C or the time limit; "
      "all is saved and the same command goes on.");
}

/// An option that may stand several times, each with its words or alone.
void add_words(CLI::App* c, const std::string& name, std::vector<std::string>& into,
               const std::string& what) {
  c->add_option_function<std::vector<std::string>>(
       name,
       [&into](const std::vector<std::string>& all) {
         for (const std::string& one : all) into.push_back(one == "{}" ? "" : one);
       },
       what)
      ->expected(0, 1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll)
      ->trigger_on_parse()
      ->default_str("");
}

void add_look(CLI::App& app, Arguments& arguments) {
  LookArguments& a = arguments.look;
  CLI::App* c = app.add_subcommand(
      "look",
      "Draw what a run has left, or what one that goes on shows now: the vehicle, slices, smoke, "
      "volumes. Several runs come on one sheet with one view and one range.");
  c->add_option("where", a.where, "folders of runs, or a campaign file")->required();
  add_words(c, "--surface", a.request.surface,
            "the vehicle: quantity, bands = 10, lines = 10, oil flow, tufts, separation, "
            "stagnation, plain, only = a | b, hide = a | b, translucent = a | b, opacity = 0.5");
  add_words(c, "--slice", a.request.slice,
            "a plane: x = 1 m (or y, z; or through = (..), normal = (..)), quantity, bands, lines, "
            "arrows, even arrows, texture, outlines, cells, unfilled, from = (..), to = (..)");
  add_words(c, "--smoke", a.request.smoke,
            "streamlines: rake, from = (..), to = (..), far_side = (..), circle = (..), radius, "
            "at = (..), part = name, vortex, stagnation, count; lines, tubes, ribbons, arrows, "
            "beads; backward, both ways, length, thickness, quantity, plain");
  add_words(c, "--volume", a.request.volume,
            "a iso-surface: quantity (total Cp), level = 0, colour = quantity, opacity");
  add_words(
      c, "--cores", a.request.cores,
      "lines through the vortices: weakest = 0.02 (circulation over speed and the root of the "
      "frontal area), shortest = 0.08 (of the length), most = 24");
  c->add_option(
      "--view", a.request.view,
      "three-quarter (default), rear three-quarter, front, rear, left, right, top, below, "
      "or a direction like \"(-1, -0.5, 0.4)\"");
  c->add_flag("--perspective", a.request.perspective, "as a camera sees it (default: parallel)");
  c->add_option("--zoom", a.request.zoom, "2 is twice as near");
  c->add_option(
      "--towards", a.request.towards,
      "the middle of what is seen, like \"(1.3 m, 0.8 m, 0.3 m)\" (default: the vehicle's)");
  add_each(c, "--range", a.request.range, "of a quantity's colours, like \"Cp = -1..1\"");
  c->add_option(
      "--chart", a.request.chart,
      "a chart instead, its numbers beside it as CSV: history, build-up, parts, sweep, "
      "\"section, y = 0, parts = a | b, over = chord\", \"line, from = (..), to = (..)\"");
  c->add_option("--series", a.request.series,
                "slices side by side, like \"x, from = 1 m, to = 4 m, steps = 6\"");
  c->add_option("--film", a.film,
                "turn, \"sweep, x, from = 1 m, to = 4 m\", beads, or time (of the pictures that a "
                "unsteady flow has kept); frames = 72, rate = 24; into "
                ".mp4, .webm, or a folder of pictures");
  c->add_option("--data", a.data, "write what is shown as VTP files into this folder instead");
  c->add_option("--size", a.size, "of the picture in pixels, like 1280x800");
  c->add_flag("--dark", a.request.dark, "on dark paper");
  c->add_option("--against", a.against, "show the change from this run");
  c->add_option(
      "--into", a.into,
      "file to write: PNG, a chart as SVG, what is shown as GLB (default: look.png in the "
      "run's folder)");
  c->add_option("--runs", a.runs_in, "of a campaign file: the folder of its runs");
  c->footer(
      "Example: dunefield look marram.runs/as-it-is_90-kmh\n"
      "         dunefield look marram.runs/as-it-is_90-kmh --slice \"y = 0, speed ratio, "
      "texture\"\n"
      "         dunefield look marram.runs/* --surface Cp --smoke \"ribbons\" --view rear\n"
      "         dunefield look marram.toml --surface");
}

void add_records(CLI::App& app, Arguments& a) {
  CLI::App* show = app.add_subcommand(
      "show", "Say what a run's folder holds: set-up, forces by part, quantities, files.");
  show->add_option("folder", a.folder, "folder of a run")->required();
  show->add_flag("--again", a.again, "make readings, pictures and VTK files again from the record");
  show->add_option(
      "--at", a.at_speed,
      "also the forces at this speed, like \"130 km/h\", from the speeds that were run");
  show->footer("Example: dunefield show marram.runs/as-it-is_90-kmh");
}

void add_list(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand("list",
                                   "List the results below a folder or of a campaign: filtered, "
                                   "sorted, as a table, CSV or JSON.");
  ListArguments& l = a.list;
  c->add_option("where", l.where, "folder, or campaign file")->required();
  c->add_option("--campaign", l.campaign, "only of this campaign");
  c->add_option("--variant", l.variant, "only of this variant");
  c->add_option("--recipe", l.recipe, "only of this recipe");
  c->add_option("--status", l.status, "only steady, fluctuating, \"not converged\" ...");
  c->add_option("--at", l.speed, "only at this speed, like \"90 km/h\"");
  c->add_option("--sort", l.sort, "by this column, like CD (--csv shows their names)");
  c->add_flag("--descending", l.descending, "the largest first");
  c->add_flag("--csv", l.csv, "print all columns as CSV");
  c->footer("Example: dunefield list marram.toml --sort CD");
}

void add_compare(CLI::App& app, Arguments& a) {
  CLI::App* c =
      app.add_subcommand("compare",
                         "Compare finished runs with the first of them: each difference with its "
                         "uncertainty, in all and by part.");
  c->add_option("folders", a.files, "folders of runs; the first is the baseline")
      ->required()
      ->expected(2, 1000);
  c->add_option(
      "--want", a.wants,
      "what is better: \"less drag\" (default), \"more drag\", \"more downforce\", \"less "
      "downforce\"; several may be given");
  c->footer(
      "Example: dunefield compare marram.runs/as-it-is_90-kmh marram.runs/tapered-tail_90-kmh");
}

void add_explain(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand("explain",
                                   "Say which parts and which stretch of the length make the "
                                   "difference between two runs, in order of size.");
  c->add_option("folders", a.files, "folders of two runs: the baseline and the other")
      ->required()
      ->expected(2);
  c->footer(
      "Example: dunefield explain marram.runs/as-it-is_90-kmh marram.runs/tapered-tail_90-kmh");
}

void add_sensitivity(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand(
      "sensitivity",
      "Show where a change of shape would pay: how a coefficient of a finished run answers when "
      "the surface moves, all over the vehicle, and what the campaign's own changes of shape would "
      "bring.");
  SensitivityArguments& s = a.sensitivity;
  c->add_option("campaign", s.campaign, "campaign file (TOML)")->required();
  c->add_option("--of", s.of,
                "what to lower: CD (default), CL, CPM, CLF, CLR or CY; what to raise has a minus: "
                "\"-CL\"; several may be given");
  c->add_option("--variant", s.variant, "whose run it is (default: the baseline)");
  c->add_option("--at", s.speed, "speed of the run, like \"90 km/h\" (default: the middle one)");
  c->add_option("--radius", s.radius,
                "of the bumps that are tried, like \"100 mm\" (default: 3 % of the length)");
  c->footer("Example: dunefield sensitivity marram.toml --of CD");
}

void add_watch(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand("watch",
                                   "Follow a campaign on a page of this machine while its shapes "
                                   "are changed: the present one is run coarsely at once, then as "
                                   "the file says.");
  c->add_option("campaign", a.campaign, "campaign file (TOML)")->required();
  c->add_option("--variant", a.watch.variant, "that is tried first (default: the baseline)");
  c->add_option("--recipe", a.watch.recipe, "of tries (default: sketch); own: that of the file")
      ->check(CLI::IsMember({"sketch", "scout", "own"}));
  c->add_flag_callback(
      "--no-finer", [&a] { a.watch.finer = false; },
      "settled tries are not run as the file says as well");
  c->add_option("--port", a.port, "of the page (default: any that is free)")
      ->check(CLI::Range(1, 65535, "1 to 65535"));
  c->add_option("--runs", a.runs_folder, "folder of the runs (default: beside the campaign file)");
  add_ranks(c, a);
  c->footer("Example: dunefield watch marram.toml --variant \"tapered tail\"");
}

void add_explore(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand("explore",
                                   "Look at finished runs on a page of this machine: move planes, "
                                   "place smoke, hide parts, compare runs with the mouse.");
  c->add_option(
       "runs", a.explored,
       "folders of one to four runs, or a campaign file (its variants at the middle speed)")
      ->required();
  c->add_option("--port", a.port, "of the page (default: any that is free)")
      ->check(CLI::Range(1, 65535, "1 to 65535"));
  c->add_flag("--open", a.open, "open the page in the browser");
  c->footer("Example: dunefield explore marram.toml --open");
}

void add_report(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand("report",
                                   "Write a campaign's report, one HTML file that opens anywhere: "
                                   "verdicts, why, numbers, charts, "
                                   "pictures, set-up.");
  c->add_option("campaign", a.campaign, "campaign file (TOML)")->required();
  c->add_option("--runs", a.runs_folder, "folder of the runs (default: beside the campaign file)");
  c->add_option("--into", a.into, "file to write (default: report.html in the folder of the runs)");
  c->footer("Example: dunefield report marram.toml");
}

void add_search(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand("search",
                                   "Look for the best setting of the numbers that [search] of a "
                                   "campaign file names: each try is "
                                   "a run of the campaign, and none is made twice.");
  c->add_option("campaign", a.campaign, "campaign file (TOML) with [search]")->required();
  add_into(c, a), add_ranks(c, a);
  c->add_option("--time-limit", a.time_limit, "stop after that much time, like \"8 h\"");
  c->footer("Example: dunefield search barchan.toml");
}

void add_independence(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand(
      "independence",
      "Run the baseline on finer and finer meshes at the first speed, and say where CD tends to.");
  c->add_option("campaign", a.campaign, "campaign file (TOML)")->required();
  c->add_option("--recipes", a.recipes,
                "three or more, from coarse to fine (default: sketch scout standard)")
      ->check(CLI::IsMember({"sketch", "scout", "standard", "fine"}));
  add_into(c, a), add_ranks(c, a);
  c->footer("Example: dunefield independence marram.toml --recipes scout standard fine");
}

void add_house(CLI::App& app, Arguments& a) {
  CLI::App* doctor = app.add_subcommand(
      "doctor",
      "Say what this machine has: cores, memory, bandwidth, which recipes fit, what is "
      "installed beside.");
  doctor->footer("Example: dunefield doctor");
  CLI::App* completion =
      app.add_subcommand("completion", "Print a script that completes commands in a shell.");
  completion->add_option("shell", a.shell, "bash, zsh or fish")->required();
  completion->footer("Example: source <(dunefield completion bash)");
  CLI::App* manual = app.add_subcommand("manual", "Print the manual as a man page.");
  manual->footer("Example: dunefield manual | man -l -");
}

void add_demo(CLI::App& app, Arguments& a) {
  CLI::App* c = app.add_subcommand(
      "demo", "Write a demo vehicle and its campaign file into a folder and run it.");
  c->add_option("folder", a.demo_folder, "folder to write into");
  c->add_option(
       "--vehicle", a.vehicle,
       "marram (van), barchan (single-seater), seif (truck), rill (cyclist), nabkha (saloon of "
       "open pieces), dirty (the van as a bad scan)")
      ->check(CLI::IsMember(garage::demo_names()));
  c->add_flag("--only-files", a.only_files, "write the files, do not run");
  add_ranks(c, a);
  c->footer("Example: dunefield demo my-first-tunnel");
}

}  // namespace

void add_commands(CLI::App& app, Arguments& a) {
  app.require_subcommand(1);
  app.fallthrough();
  app.set_version_flag("--version", DUNEFIELD_VERSION);
  app.add_flag("--json", a.json, "print the result as one JSON document and nothing else");
  app.add_flag("--plain", a.plain, "no colours");
  app.add_flag("--notes", a.notes, "print every note on a mesh, not only their number");
  app.add_option("--units", a.units,
                 "of tables: si (default) or us (mph, lbf, hp); a campaign file has its own")
      ->check(CLI::IsMember({"si", "us"}));
  add_inspect(app, a);
  add_mend(app, a);
  add_start(app, a);
  add_mesh(app, a);
  add_plan(app, a);
  add_run(app, a);
  add_look(app, a);
  add_records(app, a);
  add_list(app, a);
  add_compare(app, a);
  add_explain(app, a);
  add_sensitivity(app, a);
  add_watch(app, a);
  add_explore(app, a);
  add_report(app, a);
  add_search(app, a);
  add_independence(app, a);
  add_demo(app, a);
  add_house(app, a);
}

}  // namespace dunefield::tool
