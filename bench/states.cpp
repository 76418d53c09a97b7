// Whether a flow has more than one steady state: the same case from the stream, from another speed
// and from another variant, each until it is settled, and how far apart these end:
//   build/release/bin/states [vehicle ...] [--recipe scout] [--ranks 2]
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include <demo/garage.hpp>
#include <dunefield/base/memory.hpp>
#include <dunefield/dunefield.hpp>

namespace {

using namespace dunefield;
namespace fs = std::filesystem;

struct Options {
  std::vector<std::string> vehicles;
  std::string recipe = "scout";
  int ranks = 0;
};

constexpr double other_speed = 0.6;  // of the case's own

/// One way to the state that a run ends in.
struct Way {
  std::string name;
  Figures figures;
};

void print(const std::string& vehicle, const Way& way) {
  const Figures& f = way.figures;
  fmt::print("| {} | {} | {:.4f} +- {:.4f} | {:+.4f} +- {:.4f} | {:+.4f} +- {:.4f} | {} | {} |\n",
             vehicle, way.name, f.cd.mean, f.cd.half_interval, f.clf.mean, f.clf.half_interval,
             f.clr.mean, f.clr.half_interval, words(f.status), f.iterations);
  std::fflush(stdout);
}

/// The most that the ways differ by, beside what both intervals leave open.
void print_spread(const std::string& vehicle, const std::vector<Way>& ways) {
  const auto [least, most] = std::minmax_element(
      ways.begin(), ways.end(),
      [](const Way& a, const Way& b) { return a.figures.cd.mean < b.figures.cd.mean; });
  const WindowMean &low = least->figures.cd, &high = most->figures.cd;
  const double apart = high.mean - low.mean,
               open = std::hypot(low.half_interval, high.half_interval);
  fmt::print("| {} | spread | {:.2f} +- {:.2f} % of CD | | | {} | |\n", vehicle,
             100 * apart / low.mean, 100 * open / low.mean,
             apart > open ? "more than one state" : "one state");
  std::fflush(stdout);
}

class Ways {
 public:
  Ways(const std::string& vehicle, const Options& o)
      : folder_(fs::temp_directory_path() / ("dunefield-states-" + vehicle)), options_(o) {
    Campaign c = read_campaign(garage::write_demo(vehicle, folder_ / "files"));
    c.recipe.name = o.recipe, c.settings = std::vector<Settings>(1);
    setup_ = prepare(c);
  }
  ~Ways() {
    std::error_code ignored;
    fs::remove_all(folder_, ignored);
  }

  std::vector<Way> all() {
    RunSetup own = setup_.variants.front();
    const MeshResult mesh = build_mesh(own);
    std::vector<Way> ways = {{"from the stream", run_from({}, own, mesh)}};
    RunSetup slower = own;
    slower.conditions.speed *= other_speed;
    run_from({}, slower, mesh);
    ways.push_back({"from another speed", run_from(folder_ / "last", own, mesh)});
    if (setup_.variants.size() < 2) return ways;
    const RunSetup& variant = setup_.variants[1];
    run_from({}, variant, build_mesh(variant));
    ways.push_back({"from another variant", run_from(folder_ / "last", own, mesh)});
    return ways;
  }

 private:
  /// Saves what it ends in as `last`.
  Figures run_from(const fs::path& start, const RunSetup& setup, const MeshResult& mesh) const {
    RunOptions options{.threads = options_.ranks};
    if (!start.empty())
      options.start = [&](Findings& findings) {
        return start_from_record(start, mesh.mesh, setup.tunnel.half, setup.conditions.speed,
                                 findings, {});
      };
    const Record r = run(setup, mesh, options);
    r.save(folder_ / "last");
    return r.figures();
  }

  fs::path folder_;
  const Options& options_;
  CampaignSetup setup_;
};

}  // namespace

int main(int count, char** words) {
  keep_freed_memory();
  Options o;
  CLI::App app{"Several steady states of one case, looked for from several starts"};
  app.add_option("vehicle", o.vehicles, "which (default: all of the garage)")
      ->check(CLI::IsMember(garage::demo_names()));
  app.add_option("--recipe", o.recipe, "of the meshes");
  app.add_option("--ranks", o.ranks, "as threads (default: one for each core)");
  CLI11_PARSE(app, count, words);
  if (o.vehicles.empty()) o.vehicles = garage::demo_names();
  fmt::print(
      "| vehicle | start | CD | CLF | CLR | | iterations |\n"
      "| --- | --- | --- | --- | --- | --- | --- |\n");
  for (const std::string& vehicle : o.vehicles) {
    const std::vector<Way> ways = Ways(vehicle, o).all();
    for (const Way& w : ways) print(vehicle, w);
    print_spread(vehicle, ways);
  }
}
