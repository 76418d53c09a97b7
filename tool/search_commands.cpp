// Commands that run a campaign's set-up again and again: search, independence.

#include <fmt/format.h>
#include <dunefield/dunefield.hpp>

#include "campaign_console.hpp"
#include "commands.hpp"
#include "tables.hpp"

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;
using Rows = std::vector<std::vector<std::string>>;

std::string value_of(const DerivedFigure& d) { return to_two_digits(d.value, d.half_interval); }

/// What tells a long key from others: its last two words.
std::string end_of(const std::string& key) {
  const std::size_t last = key.rfind('.'), before = last == 0 ? last : key.rfind('.', last - 1);
  return before == std::string::npos ? key : key.substr(before + 1);
}

void show_search(const SearchTask& task, const SearchResult& result, Console& console) {
  Rows rows = {{"run"}};
  for (const SearchKey& k : task.keys) rows[0].push_back(end_of(k.key));
  rows[0].push_back(task.goal.formula);
  for (const SearchLimit& l : task.limits)
    rows[0].push_back(fmt::format("{} {} {:.4g}", l.figure.formula, l.most ? "<=" : ">=", l.value));
  rows[0].push_back("");
  int number = 0;
  for (const SearchRun& r : result.runs) {
    rows.push_back({std::to_string(++number)});
    const std::size_t own = r.settings.size() - task.keys.size();
    for (std::size_t i = own; i < r.settings.size(); ++i)
      rows.back().push_back(r.settings[i].value);
    if (r.failed) {
      rows.back().push_back("failed");
      continue;
    }
    rows.back().push_back(value_of(r.goal));
    for (const DerivedFigure& l : r.limits) rows.back().push_back(value_of(l));
    rows.back().push_back(!r.within_limits ? "beyond a limit"
                          : result.best && result.best->run + 1 == static_cast<std::size_t>(number)
                              ? "best"
                              : "");
  }
  console.line();
  console.table(rows);
  console.line("ended      " + result.why);
  if (!result.best) return;
  const SearchRun& best = result.runs[result.best->run];
  console.line(
      fmt::format("best       {}: {} {}, as all runs together have it{}", in_words(best.settings),
                  task.goal.formula, to_two_digits(result.goal, result.half_interval),
                  result.best->within_limits ? "" : "; no run is likely to keep the limits"));
}

Json search_json(const SearchResult& result) {
  Json runs = Json::array();
  for (const SearchRun& r : result.runs) {
    Json settings = Json::object();
    for (const Setting& s : r.settings) settings[s.key] = s.value;
    runs.push_back({{"settings", settings}, {"failed", r.failed}});
    if (r.failed) continue;
    runs.back()["goal"] = r.goal.value, runs.back()["goal_half_interval_95"] = r.goal.half_interval;
    runs.back()["within_limits"] = r.within_limits, runs.back()["CD"] = r.figures.cd.mean;
  }
  Json j = {{"runs", runs}, {"ended", result.why}, {"stopped", result.stopped}};
  if (result.best)
    j["best"] = {{"run", result.best->run + 1},
                 {"goal", result.goal},
                 {"half_interval_95", result.half_interval},
                 {"within_limits", result.best->within_limits}};
  return j;
}

/// The baseline with another recipe. Finer ones start from coarser ones.
CampaignSetup with_recipe(const Campaign& campaign, const std::string& recipe,
                          const fs::path& start) {
  Campaign c = campaign;
  c.recipe.name = recipe;
  c.start_run = start;
  return prepare(c);
}

}  // namespace

int search(const fs::path& file, const fs::path& into, const Ranks& ranks, Console& console) {
  const CampaignSetup setup = prepare(read_campaign(file));
  const fs::path folder = into.empty() ? default_folder(setup.campaign) : into;
  show_setup(setup, console);
  ConsoleWatcher watcher(setup, console);
  const SearchResult result = run_search(setup, folder, ranks, watcher, console_progress(console));
  if (ranks.is_root()) {
    show_search(*setup.campaign.search, result, console);
    console.json(dumped(search_json(result)));
  }
  return result.stopped ? exit_code::stopped : result.best ? exit_code::done : exit_code::failed;
}

int independence(const fs::path& file, const std::vector<std::string>& recipes,
                 const fs::path& into, const Ranks& ranks, Console& console) {
  Campaign campaign = read_campaign(file);
  if (campaign.recipe.surface_size || campaign.recipe.target_cells)
    throw InputError("surface_size or cells fix the mesh, whatever the recipe", file.string(),
                     "leave them out of [mesh]");
  const fs::path folder = into.empty() ? default_folder(campaign) : into;
  fs::path start = campaign.start_run;
  std::vector<OnMesh> meshes;
  Rows rows = {{"recipe", "cells", "CD", "CL", "status"}};
  for (const std::string& recipe : recipes) {
    const CampaignSetup setup = with_recipe(campaign, recipe, start);
    ConsoleWatcher watcher(setup, console);
    const MatrixRun which{setup.number_of(setup.campaign.baseline), setup.campaign.speeds.front()};
    const fs::path below = folder / ("recipe-" + recipe);
    const CampaignResult result =
        run_campaign(setup, below, ranks, watcher, console_progress(console), {which});
    if (result.stopped) return exit_code::stopped;
    if (result.failures > 0 || result.elsewhere > 0) return exit_code::failed;
    start = below / run_name(setup, which);
    const Figures f = read_figures(start);
    meshes.push_back({static_cast<double>(f.cells), f.cd.mean, f.cd.half_interval});
    rows.push_back({recipe, std::to_string(f.cells), drag_with_interval(f.cd),
                    with_interval(f.cl, 3), words(f.status)});
  }
  if (!ranks.is_root()) return exit_code::done;
  const Extrapolated x = extrapolated(meshes);
  console.line();
  console.table(rows);
  console.line(x.usable_order
                   ? fmt::format("observed order {:.2f}: CD tends to {:.4f} ± {:.4f}", x.order,
                                 x.value, x.band)
                   : fmt::format("{}: CD {:.4f} ± {:.4f}, 1.5 times the range",
                                 x.order > 0 ? fmt::format("the observed order {:.2f} is outside "
                                                           "0.5 to 2.5",
                                                           x.order)
                                             : "the values do not come steadily nearer",
                                 x.value, x.band));
  Json list = Json::array();
  for (std::size_t i = 0; i < meshes.size(); ++i)
    list.push_back({{"recipe", recipes[i]},
                    {"cells", meshes[i].cells},
                    {"CD", meshes[i].value},
                    {"CD_half_interval_95", meshes[i].half_interval}});
  console.json(dumped({{"meshes", list},
                       {"order", x.order},
                       {"order_is_usable", x.usable_order},
                       {"CD", x.value},
                       {"CD_half_interval", x.band}}));
  return exit_code::done;
}

}  // namespace dunefield::tool
