// Several processes that work on one campaign.
#include <optional>
#include <thread>

#include <gtest/gtest.h>

#include <dunefield/base/file_lock.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <tests/campaign/run_folder.hpp>

namespace dunefield::test {
namespace {

TEST_F(RunFolder, WhatAnotherProcessHasInHandIsLeftToIt) {
  std::filesystem::create_directories(folder_ / "runs");
  {
    const FileLock other(folder_ / "runs" / ".as-it-is_36-kmh.lock");
    ASSERT_TRUE(other.held());
    const CampaignResult result = run();
    EXPECT_EQ(result.elsewhere, 1);
    EXPECT_TRUE(result.runs.empty());
    EXPECT_TRUE(kept_.rows.empty());
  }
  EXPECT_EQ(run().runs.size(), 1u) << "the lock dies with its holder";
}

TEST_F(RunFolder, WhatStartsFromARunInOtherHandsWaitsForIt) {
  replace("[\"10 m/s\"]", "[\"10 m/s\", \"12 m/s\"]");
  ASSERT_EQ(run().runs.size(), 2u);
  const std::string history = read_text(folder_ / "runs/as-it-is_43.2-kmh/history.csv");
  std::filesystem::remove_all(folder_ / "runs");
  std::filesystem::create_directories(folder_ / "runs");
  struct Waiting : Kept {
    void waits(const std::string& run) override { waited_for = run, other.reset(); }
    std::optional<FileLock> other;
    std::string waited_for;
  } watcher;
  watcher.other.emplace(folder_ / "runs" / ".as-it-is_36-kmh.lock");
  const CampaignResult result = run_campaign(prepare(read_campaign(folder_ / "c.toml")),
                                             folder_ / "runs", {2, nullptr}, watcher);
  EXPECT_EQ(watcher.waited_for, "as-it-is_36-kmh");
  EXPECT_EQ(result.elsewhere, 0) << "what the other process left behind is taken over";
  ASSERT_EQ(result.runs.size(), 2u);
  EXPECT_EQ(read_text(folder_ / "runs/as-it-is_43.2-kmh/history.csv"), history);
}

TEST_F(RunFolder, TwoProcessesLeaveTheSameBitsAsOne) {
  replace("[\"10 m/s\"]", "[\"10 m/s\", \"12 m/s\"]");
  write_text(folder_ / "c.toml", read_text(folder_ / "c.toml") +
                                     "[[variant]]\nname = \"as it is\"\n"
                                     "[[variant]]\nname = \"raised\"\nride = { front = \"20 "
                                     "mm\", rear = \"20 mm\" }\n");
  const CampaignSetup setup = prepare(read_campaign(folder_ / "c.toml"));
  const auto run_into = [&](const char* runs) {
    Kept nobody;
    return run_campaign(setup, folder_ / runs, {1, nullptr}, nobody);
  };
  run_into("alone");
  std::thread other([&] { run_into("shared"); });
  run_into("shared");
  other.join();
  for (const char* name :
       {"as-it-is_36-kmh", "as-it-is_43.2-kmh", "raised_36-kmh", "raised_43.2-kmh"})
    EXPECT_EQ(read_text(folder_ / "shared" / name / "history.csv"),
              read_text(folder_ / "alone" / name / "history.csv"))
        << name;
}

}  // namespace
}  // namespace dunefield::test
