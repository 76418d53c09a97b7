// The command that shows what there is: a demo vehicle, its first picture, then its campaign.
#include "commands.hpp"

#include "campaign_console.hpp"

#include <fmt/format.h>
#include <demo/garage.hpp>
#include <dunefield/dunefield.hpp>
#include <dunefield/record/json.hpp>

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;

constexpr char picture_name[] = "first-look.png";

/// The first run on a coarse mesh: a picture and a number within half a minute.
Record sketched(const fs::path& file, const Ranks& ranks, Console& console) {
  Campaign campaign = read_campaign(file);
  campaign.recipe.name = "sketch";
  const CampaignSetup sketch = prepare(campaign);
  const RunSetup setup = sketch.run(sketch.matrix().front());
  const Progress progress = console_progress(console);
  const auto mesh = std::make_shared<const MeshResult>(build_mesh(setup, progress));
  RunOptions options;
  options.threads = ranks.threads, options.progress = progress;
  ConsoleWatcher watcher(sketch, console);
  return run(setup, mesh, options, watcher);
}

void first_look(const fs::path& file, const Ranks& ranks, Console& console) {
  console.heading("first look");
  const Record r = sketched(file, ranks, console);
  const fs::path picture = file.parent_path() / picture_name;
  save_png(picture, render(Picture(r).surface("Cp").smoke(nose_rake(r)).size(1280, 800)));
  console.line(fmt::format("first look {}: CD {:.2f} at {}, on a coarse mesh of {} cells",
                           r.run.variant, r.convergence.cd.mean,
                           console.units().speed_text(r.run.speed), r.mesh->cells));
  console.line("picture    " + picture.string());
  console.line();
}

}  // namespace

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
  // Where nothing is computed yet. MPI processes have no business with a sketch.
  if (!ranks.processes && !fs::exists(folder / picture_name)) first_look(file, ranks, console);
  return run({file.string()}, {}, {}, {}, true, ranks, console);
}

}  // namespace dunefield::tool
