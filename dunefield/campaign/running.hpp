// A run that goes on can be seen, and asked for a look at it, from other processes.
#pragma once

#include <filesystem>

#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/reel_keeper.hpp>

namespace dunefield {

/// While it lives, the run's folder is told as running; passes on to another watcher.
class Running : public RunWatcher {
 public:
  /// @param root only the root tells and answers
  Running(const std::filesystem::path& folder, const RunSetup& setup, CampaignWatcher& watcher,
          bool root);
  ~Running() override;
  Running(const Running&) = delete;
  Running& operator=(const Running&) = delete;

  void iterated(const HistoryRow& row, double seconds_left) override;
  bool wants_look() override;
  void look(const Record& record) override;

  const ReelKeeper& reels() const { return reels_; }

 private:
  std::filesystem::path folder_;
  const Readings& readings_;
  ReelKeeper reels_;
  CampaignWatcher& watcher_;
  bool root_;
  bool watcher_wants_ = false, asked_for_ = false, frame_due_ = false;  ///< a look
};

}  // namespace dunefield
