// All runs of a campaign: every variant at every speed, in the same tunnel with the same recipe.
#pragma once

#include <functional>
#include <vector>

#include <dunefield/campaign/run_folder.hpp>

namespace dunefield {

struct CampaignObserver {
  /// Before each run: its number from 1, how many there are, variant and speed; `skipped` if it is
  /// already done.
  std::function<void(int, int, const std::string&, double, bool skipped)> begins;
  std::function<void(const MeshResult&)> meshed;
  RunObserver run;
  std::function<void(const RunFigures&, const Findings&, const std::filesystem::path&)> ended;
  std::function<void(const std::string& why)> failed;
};

struct CampaignResult {
  /// By variant, then speed; without those that failed, shorter if it was stopped
  std::vector<RunFigures> runs;
  int failures = 0;
  bool stopped = false;
};

/// Runs what is not yet done below `folder`. A run at the next speed starts from the one before it.
/// Collective over MPI ranks; the result is complete on the root only. A mesh or a flow that cannot
/// be made does not end the other runs.
/// @throw OutputError, Cancelled
CampaignResult run_campaign(const CampaignSetup& setup, const std::filesystem::path& folder,
                            const Ranks& ranks, const CampaignObserver& observer);

/// Folders of the runs that go on below `folder` at present, in whatever process.
std::vector<std::filesystem::path> running_below(const std::filesystem::path& folder);
/// Asks a run that goes on to write its present state, with pictures, into its look folder, and
/// waits for it.
/// @throw InputError when there is no answer within `patience` seconds
void ask_for_look(const std::filesystem::path& run_folder, double patience,
                  const Progress& progress);
std::filesystem::path look_folder(const std::filesystem::path& run_folder);

/// Where the runs of a campaign go unless told otherwise: beside its file.
std::filesystem::path default_folder(const Campaign& campaign);

}  // namespace dunefield
