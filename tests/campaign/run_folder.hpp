// A campaign of one small run, run and run again in a folder of its own.
#pragma once

#include <gtest/gtest.h>

#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {

/// Keeps what it is told.
struct Kept : CampaignWatcher {
  void iterated(const HistoryRow& h, double) override { rows.push_back(h.iteration); }
  void meshed(const MeshResult&) override { ++meshes; }
  void failed(const std::string& why) override { failures.push_back(why); }
  void warned(const std::string& what) override { warnings.push_back(what); }
  std::vector<int> rows;
  int meshes = 0;
  std::vector<std::string> failures, warnings;
};

class RunFolder : public testing::Test {
 protected:
  RunFolder() {
    write_stl_ascii(folder_ / "ball.stl", sphere("ball \"<&>\" \xff", {0, 0, 0.7}, 0.3, 32));
    write_text(folder_ / "c.toml",
               "name = \"Ball\"\n[vehicle]\nfiles = [\"ball.stl\"]\n[tunnel]\nahead = 2\nbehind = "
               "3\nblockage = 0.03\n[mesh]\nsurface_size = \"80 mm\"\n"
               "[flow]\niterations = 12\n[runs]\nspeeds = [\"10 m/s\"]\n");
  }
  /// @param rows after which the user stops it
  CampaignResult run(std::size_t rows = 1u << 30) {
    kept_ = {};
    Progress progress;
    progress.cancelled = [this, rows] { return kept_.rows.size() >= rows; };
    return run_campaign(prepare(read_campaign(folder_ / "c.toml")), folder_ / "runs", {2, nullptr},
                        kept_, progress);
  }
  void replace(const std::string& what, const std::string& by) {
    std::string text = read_text(folder_ / "c.toml");
    write_text(folder_ / "c.toml", text.replace(text.find(what), what.size(), by));
  }
  std::filesystem::path result(const char* file) const {
    return folder_ / "runs/as-it-is_36-kmh" / file;
  }
  TemporaryFolder folder_;
  Kept kept_;
};

}  // namespace dunefield::test
