// Follows a campaign on a page of this machine.
#include <iostream>

#include <fmt/format.h>
#include <dunefield/dunefield.hpp>

#include "commands.hpp"
#include "tables.hpp"

namespace dunefield::tool {

int watch(const std::filesystem::path& campaign, const WatchOptions& options, int port,
          Console& console) {
  Watch followed(campaign, options);
  const WatchServer server(followed, read_campaign(campaign).name, port);
  console.line("page       " + server.address());
  console.line("           open it in a browser; Ctrl-C ends it");
  console.json(dumped({{"page", server.address()}}));
  std::cout.flush();
  const Progress progress{
      [&](const std::string& stage, double share) {
        console.progress(stage == "running"
                             ? fmt::format("running    {:.0f} iterations", share)
                             : fmt::format("meshing    {:3.0f} %  {}", 100 * share, stage));
      },
      stop_requested};
  followed.work(progress);
  console.line("ended; settled runs are in the campaign's folder");
  return exit_code::done;
}

}  // namespace dunefield::tool
