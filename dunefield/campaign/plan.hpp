// What a campaign will take, before anything is made.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/campaign/run_store.hpp>

namespace dunefield {

struct PlannedRun {
  std::string variant;
  double speed = 0;      ///< m/s
  std::string settings;  ///< in words
  int lattice = 0;
  std::filesystem::path folder;
  ToDo to_do = ToDo::all;
  double cells = 0;       ///< those of the result that is there, else predicted
  double iterations = 0;  ///< expected; 0: done
  double seconds = 0;     ///< the same, with the mesh where it has to be made
  double bytes = 0;       ///< of memory, at the most
};

/// Runs in their order. Cells are predicted from the octree; times are those of this campaign's own
/// finished runs where there are any, else of the machine of docs/theory/performance.md.
/// @param threads that the runs will have
/// @param matrix of which runs, those that are wanted are told; empty: all of the campaign
std::vector<PlannedRun> plan_of(const CampaignSetup& setup, const std::filesystem::path& folder,
                                int threads, const Progress& progress = {},
                                const std::vector<MatrixRun>& matrix = {});

}  // namespace dunefield
