// Runs tries of a watched campaign: reads, meshes, runs on from the flow that there is, shows what
// goes on.
#pragma once

#include <atomic>
#include <chrono>
#include <functional>
#include <optional>

#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/report/watch.hpp>
#include <dunefield/report/watch_desk.hpp>

namespace dunefield {

class TryRunner : public CampaignWatcher {
 public:
  /// @param asked what a page has asked for is done now, between two iterations
  TryRunner(std::filesystem::path file, const WatchOptions& options, WatchDesk& desk,
            WatchBoard& board, Explorer& explorer, std::function<void()> asked);

  /// From the files to a settled result, if nothing newer is wanted meanwhile.
  /// @param progress cancelled by what is newer
  /// @throw InputError, MeshError, FlowError, OutputError, Cancelled
  void attempt(const Progress& progress);
  /// The present try becomes the one that others are compared with.
  void keep();
  const Try* kept() const { return kept_.get(); }

  void meshed(const MeshResult& mesh) override;
  void iterated(const HistoryRow& row, double seconds_left) override;
  bool wants_look() override;
  void look(const Record& record) override;
  void failed(const std::string& why) override;

 private:
  using Clock = std::chrono::steady_clock;

  void read();
  void mesh();
  void run_present();
  void run_finer();
  void ended_with(const Figures& figures);
  /// The present try's flow, and beside it the one that is kept.
  void show(std::shared_ptr<const Record> present);
  std::filesystem::path watch_folder() const { return options_.runs / "watch"; }

  const std::filesystem::path file_;
  const WatchOptions& options_;
  WatchDesk& desk_;
  WatchBoard& board_;
  Explorer& explorer_;
  std::function<void()> asked_;
  Progress progress_;

  std::optional<RunSetup> setup_;  ///< of the last files that were good
  std::shared_ptr<const MeshResult> mesh_;
  std::string mesh_hash_;
  std::shared_ptr<const Record> last_;  ///< flow to go on from
  std::vector<std::shared_ptr<Try>> tries_;
  std::shared_ptr<Try> present_, kept_;
  int tries_made_ = 0;
  Clock::time_point began_{}, looked_{};
  double answered_before_ = 0;  ///< s that pages had taken when the present try began
};

}  // namespace dunefield
