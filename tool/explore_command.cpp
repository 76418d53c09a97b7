// A page of this machine that looks at finished runs.
#include <iostream>
#include <thread>

#include <spawn.h>

#include <fmt/format.h>
#include <dunefield/dunefield.hpp>
#include <dunefield/report/explore_server.hpp>

#include "commands.hpp"
#include "tables.hpp"

extern char** environ;

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;

/// All variants at the middle speed, as far as they are run as the file describes them.
std::vector<fs::path> runs_of(const fs::path& campaign_file) {
  const CampaignSetup setup = prepare(read_campaign(campaign_file));
  const fs::path below = default_folder(setup.campaign);
  const std::vector<double>& speeds = setup.campaign.speeds;
  const double middle = speeds[speeds.size() / 2];
  std::vector<fs::path> folders, others;
  for (const MatrixRun& which : setup.matrix()) {
    const fs::path folder = below / run_name(setup, which);
    if (standing_of(folder, setup.run(which)) != Standing::current) continue;
    const bool usual = which.speed == middle && which.setting == 0 && which.lattice == 0;
    (usual ? folders : others).push_back(folder);
  }
  if (folders.empty()) folders = others;
  if (folders.empty())
    throw InputError("no run is finished as the file describes it", below.string(),
                     "run it first: dunefield run " + campaign_file.string());
  folders.resize(std::min(folders.size(), Explorer::most_runs));
  return folders;
}

std::vector<fs::path> folders_of(const std::vector<std::string>& where) {
  std::vector<fs::path> folders;
  for (const std::string& w : where) {
    if (fs::path(w).extension() != ".toml") {
      folders.push_back(w);
      continue;
    }
    const std::vector<fs::path> own = runs_of(w);
    folders.insert(folders.end(), own.begin(), own.end());
  }
  return folders;
}

/// @return whether a browser was asked to open it
bool opened_in_browser(const std::string& address) {
  const std::string program = "xdg-open";
  std::vector<char*> words = {const_cast<char*>(program.c_str()),
                              const_cast<char*>(address.c_str()), nullptr};
  pid_t id = 0;
  return posix_spawnp(&id, program.c_str(), nullptr, nullptr, words.data(), environ) == 0;
}

}  // namespace

int explore(const std::vector<std::string>& where, int port, bool open, Console& console) {
  const Explorer explorer(folders_of(where),
                          {[&](const std::string& stage, double share) {
                             console.progress(fmt::format("{:3.0f} %  {}", 100 * share, stage));
                           },
                           stop_requested});
  const ExploreServer server(explorer, port);
  console.line("page       " + server.address());
  if (!open || !opened_in_browser(server.address()))
    console.line("           open it in a browser");
  console.line("           Ctrl-C ends it");
  console.json(dumped({{"page", server.address()}}));
  std::cout.flush();
  while (!stop_requested()) std::this_thread::sleep_for(std::chrono::milliseconds(100));
  return exit_code::done;
}

}  // namespace dunefield::tool
