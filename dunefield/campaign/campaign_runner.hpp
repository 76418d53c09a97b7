// All runs of a campaign: every variant at every speed, in the same tunnel with the same recipe.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/run/run.hpp>

namespace dunefield {

/// Told on the root what goes on; what is of no interest stays as it is.
class CampaignWatcher : public RunWatcher {
 public:
  /// Before each run: its number from 1, how many there are, and what is left to do of it.
  struct Begin {
    int number, total;
    std::string variant;
    double speed;
    std::string settings;  ///< in words; empty: none of its own
    int lattice;           ///< from 0
    bool done, only_readings;
    bool elsewhere;      ///< another process has it in hand
    std::string holder;  ///< that process in words; empty: not known
  };
  virtual void begins(const Begin&) {}
  /// What is left starts from a run that another process has in hand.
  virtual void waits(const std::string& run) { (void)run; }
  virtual void meshed(const MeshResult&) {}
  virtual void ended(const Figures&, const Findings&, const std::filesystem::path& folder) {
    (void)folder;
  }
  /// Something that was left out while a run goes on.
  virtual void warned(const std::string& what) { (void)what; }
  virtual void failed(const std::string& why) { (void)why; }
};

struct CampaignResult {
  std::vector<Figures> runs;  ///< by lattice, variant, speed; without those that failed
  int failures = 0;
  int elsewhere = 0;  ///< runs that other processes have in hand
  bool stopped = false;
};

/// Runs what is not yet done below `folder`. Which run starts from which, `starts` says.
/// What is read and drawn otherwise than before is made again from the record; with other limits a
/// run goes on. Collective over MPI ranks; the result is complete on the root only. A mesh or a
/// flow that cannot be made does not end the other runs. Several processes may work on one folder,
/// to the same bits: each run is in the hands of one of them, and the lock dies with it; what
/// starts from a run in other hands waits for it.
/// @param matrix the runs; empty: all of the campaign. What is done of those that are not wanted is
/// among the result's, too
/// @throw OutputError, Cancelled
CampaignResult run_campaign(const CampaignSetup& setup, const std::filesystem::path& folder,
                            const Ranks& ranks, CampaignWatcher& watcher,
                            const Progress& progress = {},
                            const std::vector<MatrixRun>& matrix = {});

/// Folders of the runs that go on below `folder` at present, in whatever process.
std::vector<std::filesystem::path> running_below(const std::filesystem::path& folder);
/// Asks a run that goes on to write its present state, with pictures, into its look folder, and
/// waits for it.
/// @throw InputError when there is no answer within `patience` seconds
void ask_for_look(const std::filesystem::path& run_folder, double patience,
                  const Progress& progress);
std::filesystem::path look_folder(const std::filesystem::path& run_folder);

}  // namespace dunefield
