// A search as runs of a campaign: each point is a setting, each run a normal one, kept and found
// again.
#pragma once

#include <filesystem>

#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/search.hpp>

namespace dunefield {

struct SearchRun {
  Settings settings;
  bool failed = false;
  Figures figures;
  DerivedFigure goal;                 ///< as asked for
  std::vector<DerivedFigure> limits;  ///< as asked for
  bool within_limits = false;         ///< as this run alone has it
};

struct SearchResult {
  std::vector<SearchRun> runs;  ///< in the order of the search
  std::optional<Search::Best> best;
  double goal = 0, half_interval = 0;  ///< at the best, of the surrogate that all runs speak in
  std::string why;                     ///< it has ended
  bool stopped = false;
};

/// Runs what [search] of the campaign asks for, at its first speed. What is there already is not
/// run again, so that the same command goes on. Collective over MPI ranks.
/// @throw InputError without a search, or for a key that the file has not
SearchResult run_search(const CampaignSetup& setup, const std::filesystem::path& folder,
                        const Ranks& ranks, CampaignWatcher& watcher,
                        const Progress& progress = {});

}  // namespace dunefield
