// The tool's commands. Each returns an exit code: 0 done, 3 stopped on request with what there was
// saved.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "console.hpp"

#include <dunefield/campaign/wanted_runs.hpp>
#include <dunefield/look/picture_request.hpp>
#include <dunefield/report/watch.hpp>
#include <dunefield/run/ranks.hpp>

namespace dunefield::tool {

namespace exit_code {
constexpr int done = 0, failed = 1, usage = 2, stopped = 3;
}

struct InspectOptions {
  std::vector<std::string> files;
  std::string unit, nose, up;  ///< empty: guessed
  std::string picture;         ///< empty: none
};
int inspect(const InspectOptions& options, Console& console);

struct MendArguments {
  std::vector<std::string> files;
  std::string unit = "m", into, weld, drop_stray, close;
  bool drop_doubled = false, orient = false;
  std::vector<std::string> thicken;
};
int mend(const MendArguments& arguments, Console& console);

/// How surface files are taken where there is no campaign file; empty: guessed.
struct SurfaceArguments {
  std::string unit, nose, up, road, recipe;
  std::vector<std::string> speeds;
  bool half = false, whole = false;
  bool given() const {
    return !unit.empty() || !nose.empty() || !up.empty() || !road.empty() || !recipe.empty() ||
           !speeds.empty() || half || whole;
  }
};
int start(const std::vector<std::string>& files, const SurfaceArguments& surface,
          const std::filesystem::path& into, Console& console);

/// @param files here and below: one campaign file, or surface files
int mesh(const std::vector<std::string>& files, const SurfaceArguments& surface,
         const std::string& variant, const std::filesystem::path& into, bool cgns,
         Console& console);
int plan(const std::vector<std::string>& files, const SurfaceArguments& surface,
         const WantedRuns& wanted, const std::filesystem::path& into, const Ranks& ranks,
         bool cluster, Console& console);
/// @param report whether one is written at the end, if anything was computed
int run(const std::vector<std::string>& files, const SurfaceArguments& surface,
        const WantedRuns& wanted, const std::filesystem::path& into, bool report,
        const Ranks& ranks, Console& console);

struct LookArguments {
  std::vector<std::string> where;  ///< folders of runs, or a campaign file
  PictureRequest request;
  std::string size, against, film, data, into, runs_in;
};
int look(const LookArguments& arguments, Console& console);
struct SensitivityArguments {
  std::string campaign, variant, speed;  ///< empty: the baseline, the middle one
  std::vector<std::string> of = {"CD"};
  std::string radius;  ///< of the bumps; empty: 3 % of the length
};
int sensitivity(const SensitivityArguments& arguments, Console& console);
/// @param at_speed tells the forces there, too; empty: none
int show(const std::filesystem::path& folder, bool again, const std::string& at_speed,
         Console& console);

struct ListArguments {
  std::string where, campaign, variant, recipe, status, speed, sort;
  bool descending = false, csv = false;
};
int list(const ListArguments& arguments, Console& console);
/// @param folders of runs; the first is the baseline
int compare(const std::vector<std::string>& folders, const std::vector<std::string>& wants,
            Console& console);
/// @param folders the baseline and the run that differs from it
int explain(const std::vector<std::string>& folders, Console& console);
/// Writes the campaign's report.
int report(const std::filesystem::path& campaign, const std::filesystem::path& runs,
           const std::filesystem::path& into, Console& console);
/// Serves a page that follows the campaign, until it is ended. @param port 0: any that is free
int explore(const std::vector<std::string>& where, int port, bool open, Console& console);
int watch(const std::filesystem::path& campaign, const WatchOptions& options, int port,
          Console& console);
/// Says what this machine has.
int doctor(const std::string& version, Console& console);
/// Runs the campaign's [search].
int search(const std::filesystem::path& campaign, const std::filesystem::path& into,
           const Ranks& ranks, Console& console);
/// Runs the baseline with one recipe after the other, and says where CD tends to.
int independence(const std::filesystem::path& campaign, const std::vector<std::string>& recipes,
                 const std::filesystem::path& into, const Ranks& ranks, Console& console);
int demo(const std::string& name, const std::filesystem::path& folder, bool only_files,
         const Ranks& ranks, Console& console);

/// From now on stop_requested() is true when this time ("90 min") is over; empty: never. @throw
/// InputError
void set_time_limit(const std::string& limit);
/// True once the user has asked to stop (Ctrl-C), or the time is over.
bool stop_requested();
void catch_interrupt();

}  // namespace dunefield::tool
