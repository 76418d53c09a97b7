// The command-line program: parses, calls the library, prints.
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <new>
#include <optional>
#include <thread>

#include <CLI/CLI.hpp>

#include "arguments.hpp"
#include "tables.hpp"

#include <dunefield/base/error.hpp>
#include <dunefield/base/memory.hpp>
#include <dunefield/parallel/thread_budget.hpp>
#ifdef DUNEFIELD_MPI
#include <dunefield/parallel/mpi_communicator.hpp>
#endif

namespace {

namespace tool = dunefield::tool;

int dispatch(const CLI::App& app, const tool::Arguments& a, const dunefield::Ranks& ranks,
             tool::Console& console) {
  const dunefield::ThreadBudget budget(a.ranks);
  if (app.got_subcommand("inspect")) return tool::inspect(a.inspect, console);
  if (app.got_subcommand("mend")) return tool::mend(a.mend, console);
  if (app.got_subcommand("start")) return tool::start(a.files, a.surface, a.into, console);
  if (app.got_subcommand("mesh"))
    return tool::mesh(a.files, a.surface, a.variant, a.into, a.cgns, console);
  tool::set_time_limit(a.time_limit);
  if (app.got_subcommand("plan"))
    return tool::plan(a.files, a.surface, a.wanted, a.into, ranks, a.cluster, console);
  if (app.got_subcommand("run"))
    return tool::run(a.files, a.surface, a.wanted, a.into, a.report, ranks, console);
  if (app.got_subcommand("doctor")) return tool::doctor(DUNEFIELD_VERSION, console);
  if (app.got_subcommand("completion") || app.got_subcommand("manual")) {
    tool::print_text(app.got_subcommand("manual") ? tool::man_page(app, DUNEFIELD_VERSION)
                                                  : tool::completion(app, a.shell),
                     console);
    return tool::exit_code::done;
  }
  if (app.got_subcommand("explore")) return tool::explore(a.explored, a.port, a.open, console);
  if (app.got_subcommand("watch")) {
    dunefield::WatchOptions o = a.watch;
    o.runs = a.runs_folder, o.threads = a.ranks;
    if (o.recipe == "own") o.recipe.clear();
    return tool::watch(a.campaign, o, a.port, console);
  }
  if (app.got_subcommand("report")) return tool::report(a.campaign, a.runs_folder, a.into, console);
  if (app.got_subcommand("search")) return tool::search(a.campaign, a.into, ranks, console);
  if (app.got_subcommand("independence"))
    return tool::independence(a.campaign, a.recipes, a.into, ranks, console);
  if (app.got_subcommand("look")) return tool::look(a.look, console);
  if (app.got_subcommand("list")) return tool::list(a.list, console);
  if (app.got_subcommand("compare")) return tool::compare(a.files, a.wants, console);
  if (app.got_subcommand("explain")) return tool::explain(a.files, console);
  if (app.got_subcommand("sensitivity")) return tool::sensitivity(a.sensitivity, console);
  if (app.got_subcommand("show")) return tool::show(a.folder, a.again, a.at_speed, console);
  return tool::demo(a.vehicle, a.demo_folder, a.only_files, ranks, console);
}

/// The error's one line, or nothing if all went well.
std::optional<std::string> attempt(const CLI::App& app, const tool::Arguments& a,
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

constexpr char greeting[] = R"(Dunefield: a numerical wind tunnel for road vehicles.

  dunefield demo my-first-tunnel      the demo van: meshes, flows, comparison, report
  dunefield start van.stl             your own surface: a campaign file to run
  dunefield run van.toml              meshes, flows and the comparison of its variants
  dunefield explore van.toml --open   look at the results with the mouse
  dunefield report van.toml           one page with the verdict, for your colleagues

All commands: dunefield --help. One of them: dunefield run --help.
)";

}  // namespace

int main(int argc, char** argv) {
  dunefield::keep_freed_memory();
  if (argc == 1) {
    std::fputs(greeting, stdout);
    return tool::exit_code::done;
  }
  CLI::App app{"Dunefield: a numerical wind tunnel for vehicles.", "dunefield"};
  tool::Arguments a;
  tool::add_commands(app, a);
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
  tool::Console console(
      {a.json, !a.plain, dunefield::display_units(a.units, "--units"), a.notes, ranks.is_root()});
  int code = tool::exit_code::done;
  if (const auto error = attempt(app, a, ranks, console, code)) {
    if (ranks.is_root()) console.error(*error);
#ifdef DUNEFIELD_MPI
    if (session && session->world().size() > 1) {
      // What all ranks find wrong the first one says, and ends the job; what this one alone does,
      // nobody else would say.
      if (!ranks.is_root()) {
        std::this_thread::sleep_for(std::chrono::seconds(1));
        std::fprintf(stderr, "error rank %d of %d: %s\n", session->world().rank() + 1,
                     session->world().size(), error->c_str());
      }
      session->abort(code);
    }
#endif
  }
  if (code == tool::exit_code::done && !tool::output_is_whole()) {
    console.error("standard output could not be written to its end; check the free space");
    code = tool::exit_code::failed;
  }
  return code;
}
