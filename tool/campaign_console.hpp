// How a campaign goes on, on the console.
#pragma once

#include "console.hpp"

#include <dunefield/campaign/campaign_runner.hpp>

namespace dunefield::tool {

/// Ends with Ctrl-C and the time limit.
/// @param doing what the line begins with
Progress console_progress(Console& console, const std::string& doing = "meshing");
/// The set-up in words, and what is unlikely in it.
void show_setup(const CampaignSetup& setup, Console& console);

/// Says what begins, goes on and ends.
class ConsoleWatcher : public CampaignWatcher {
 public:
  ConsoleWatcher(const CampaignSetup& setup, Console& console) : setup_(setup), console_(console) {}
  void begins(const Begin& b) override;
  void waits(const std::string& run) override;
  void meshed(const MeshResult& m) override;
  void iterated(const HistoryRow& h, double left) override;
  void ended(const Figures& f, const Findings& findings,
             const std::filesystem::path& folder) override;
  void warned(const std::string& what) override { console_.line("warning    " + what); }
  void failed(const std::string& why) override { console_.error(why); }
  /// Whether any run has been computed, not found done.
  bool computed() const { return computed_; }

 private:
  const CampaignSetup& setup_;
  Console& console_;
  bool computed_ = false;
};

}  // namespace dunefield::tool
