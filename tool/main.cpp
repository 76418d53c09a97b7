// The command-line program: parses, calls the library, prints.
#include <cstdlib>
#include <new>
#include <optional>

#include <CLI/CLI.hpp>

#include "commands.hpp"

#include <demo/garage.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/base/memory.hpp>
#ifdef DUNEFIELD_MPI
#include <dunefield/parallel/mpi_communicator.hpp>
#endif

namespace {

namespace tool = dunefield::tool;

struct Arguments {
  bool json = false, plain = false;
  int ranks = 0;
  tool::InspectOptions inspect;
  tool::MendArguments mend;
  std::string campaign, variant, into, time_limit, demo_folder = "dunefield-demo",
                                                   vehicle = "marram";
  bool only_files = false, cgns = false;
};

void add_commands(CLI::App& app, Arguments& a) {
  app.require_subcommand(1);
  app.fallthrough();
  app.set_version_flag("--version", DUNEFIELD_VERSION);
  app.add_flag("--json", a.json, "print the result as one JSON document and nothing else");
  app.add_flag("--plain", a.plain, "no colours");
  const auto ranks = [&](CLI::App* c) {
    c->add_option(
         "--ranks", a.ranks,
         "ranks as threads (default: one for each core); under mpiexec the processes are the ranks")
        ->check(CLI::Range(1, 1024));
  };
  const auto into = [&](CLI::App* c) {
    c->add_option("--into", a.into, "folder for the results (default: beside the campaign file)");
  };

  CLI::App* inspect =
      app.add_subcommand("inspect",
                         "Say what a surface holds and how healthy it is: parts, size, stance, "
                         "wheels, holes, flipped and doubled facets, crossings, thickness.");
  inspect->add_option("surface", a.inspect.files, "STL, OBJ or PLY files")->required();
  inspect->add_option("--unit", a.inspect.unit,
                      "length unit of the files: m, mm, cm, in, ft (default: guessed)");
  const auto axes = CLI::IsMember({"-x", "+x", "-y", "+y", "-z", "+z"});
  inspect
      ->add_option("--nose", a.inspect.nose,
                   "where the nose points in the files, like -x (default: guessed)")
      ->check(axes);
  inspect
      ->add_option("--up", a.inspect.up,
                   "where the roof points in the files, like +z (default: guessed)")
      ->check(axes);
  inspect->add_option("--picture", a.inspect.picture, "write a PNG with the findings marked");
  inspect->footer("Example: dunefield inspect van.stl --unit mm --picture health.png");

  CLI::App* mend = app.add_subcommand(
      "mend", "Mend a surface and write it as a new file. A dirty surface can be meshed without.");
  mend->add_option("surface", a.mend.files, "STL, OBJ or PLY files")->required();
  mend->add_option("--into", a.mend.into, "the file to write (STL)")->required();
  mend->add_option("--unit", a.mend.unit, "length unit of the files: m, mm, cm, in, ft");
  mend->add_option("--weld", a.mend.weld, "points nearer than that become one, like \"0.1 mm\"");
  mend->add_flag("--drop-doubled", a.mend.drop_doubled, "drop facets that are there twice");
  mend->add_option("--drop-stray", a.mend.drop_stray, "drop connected pieces smaller than that");
  mend->add_flag("--orient", a.mend.orient, "turn facets outward");
  mend->add_option("--close", a.mend.close, "close loops of open edges smaller than that");
  mend->add_option("--thicken", a.mend.thicken, "give a sheet a thickness: \"part=2 mm\"");
  mend->footer(
      "Example: dunefield mend scan.stl --unit mm --into mended.stl --drop-doubled --orient "
      "--close \"50 mm\"");

  CLI::App* mesh =
      app.add_subcommand("mesh", "Mesh a campaign's vehicle and say how good the mesh is.");
  mesh->add_option("campaign", a.campaign, "campaign file (TOML)")->required();
  mesh->add_option("--variant", a.variant, "which variant (default: the first)");
  into(mesh);
  mesh->add_flag(
      "--cgns", a.cgns,
      "write the mesh as CGNS instead of VTU; a variant can name either file as its mesh");
  mesh->footer("Example: dunefield mesh marram.toml --variant \"side skirts\"");

  CLI::App* run = app.add_subcommand("run",
                                     "Run all variants at all speeds of a campaign and compare "
                                     "them. What is already done is not run again.");
  run->add_option("campaign", a.campaign, "campaign file (TOML)")->required();
  run->add_option(
      "--time-limit", a.time_limit,
      "stop after that much time, like \"90 min\", with all saved: the same command goes on");
  ranks(run), into(run);
  run->footer(
      "Example: dunefield run marram.toml\n         mpiexec -n 4 dunefield run marram.toml\n"
      "Exit codes: 0 done, 1 failed, 2 wrong arguments, 3 stopped by Ctrl-C or the time limit; all "
      "is saved and the same command goes on.");

  CLI::App* look = app.add_subcommand("look",
                                      "Look at a campaign that another terminal is running: its "
                                      "present coefficients, history and pictures.");
  look->add_option("campaign", a.campaign, "campaign file (TOML)")->required();
  into(look);
  look->footer("Example: dunefield look marram.toml");

  CLI::App* demo = app.add_subcommand(
      "demo", "Write a demo vehicle and its campaign file into a folder and run it.");
  demo->add_option("folder", a.demo_folder, "folder to write into");
  demo->add_option("--vehicle", a.vehicle,
                   "marram (van), barchan (single-seater), seif (truck), rill (cyclist), dirty "
                   "(the van as a bad scan)")
      ->check(CLI::IsMember(dunefield::garage::demo_names()));
  demo->add_flag("--only-files", a.only_files, "write the files, do not run");
  ranks(demo);
  demo->footer("Example: dunefield demo my-first-tunnel");
}

int dispatch(const CLI::App& app, const Arguments& a, const dunefield::Ranks& ranks,
             tool::Console& console) {
  if (app.got_subcommand("inspect")) return tool::inspect(a.inspect, console);
  if (app.got_subcommand("mend")) return tool::mend(a.mend, console);
  if (app.got_subcommand("mesh")) return tool::mesh(a.campaign, a.variant, a.into, a.cgns, console);
  tool::set_time_limit(a.time_limit);
  if (app.got_subcommand("run")) return tool::run(a.campaign, a.into, ranks, console);
  if (app.got_subcommand("look")) return tool::look(a.campaign, a.into, console);
  return tool::demo(a.vehicle, a.demo_folder, a.only_files, ranks, console);
}

/// The error's one line, or nothing if all went well.
std::optional<std::string> attempt(const CLI::App& app, const Arguments& a,
                                   const dunefield::Ranks& ranks, tool::Console& console,
                                   int& code) {
  try {
    code = dispatch(app, a, ranks, console);
    return std::nullopt;
  } catch (const dunefield::Cancelled& e) {
    code = tool::exit_code::stopped;
    return e.what();
  } catch (const std::bad_alloc&) {
    code = tool::exit_code::failed;
    return "out of memory; use a coarser recipe or fewer cells";
  } catch (const std::exception& e) {
    code = tool::exit_code::failed;
    return e.what();
  }
}

}  // namespace

int main(int argc, char** argv) {
  dunefield::keep_freed_memory();
  CLI::App app{"Dunefield: a numerical wind tunnel for vehicles.", "dunefield"};
  Arguments a;
  add_commands(app, a);
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& e) {
    return app.exit(e) == 0 ? tool::exit_code::done : tool::exit_code::usage;
  }
  tool::catch_interrupt();
  dunefield::Ranks ranks{a.ranks, nullptr};
#ifdef DUNEFIELD_MPI
  std::optional<dunefield::MpiSession> session;
  if (dunefield::MpiSession::launched()) {
    session.emplace(&argc, &argv);
    ranks.processes = &session->world();
  }
#endif
  tool::Console console({a.json, !a.plain, ranks.is_root()});
  int code = tool::exit_code::done;
  if (const auto error = attempt(app, a, ranks, console, code)) {
    if (code != tool::exit_code::failed || ranks.is_root() || !ranks.processes)
      console.error(*error);
#ifdef DUNEFIELD_MPI
    if (session && session->world().size() > 1) session->abort(code);
#endif
  }
  return code;
}
