// All runs of a campaign: every variant at every speed, in the same tunnel with the same recipe.
#pragma once

#include <functional>
#include <vector>

#include <dunefield/campaign/run_folder.hpp>

namespace dunefield {

struct CampaignObserver {
  /// Before each run: its number from 1, how many there are, variant and speed; `skipped` if it is already done.
  std::function<void(int, int, const std::string&, double, bool skipped)> begins;
  std::function<void(const MeshResult&)> meshed;
  RunObserver run;
  std::function<void(const RunFigures&, const std::filesystem::path&)> ended;
};

struct CampaignResult {
  std::vector<RunFigures> runs;  ///< by variant, then speed; shorter if it was stopped
  bool stopped = false;
};

/// Runs what is not yet done below `folder`. A run at the next speed starts from the one before it. Collective over MPI ranks;
/// the result is complete on the root only. @throw what prepare, build_mesh and run_case throw
CampaignResult run_campaign(const CampaignSetup& setup, const std::filesystem::path& folder, const Ranks& ranks, const CampaignObserver& observer);

/// Where the runs of a campaign go unless told otherwise: beside its file.
std::filesystem::path default_folder(const Campaign& campaign);

}  // namespace dunefield
