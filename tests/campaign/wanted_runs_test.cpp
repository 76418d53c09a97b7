// Some runs of a campaign: which are meant, and what the others are good for.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/campaign/wanted_runs.hpp>
#include <tests/campaign/run_folder.hpp>

namespace dunefield::test {
namespace {

class WantedRunsOf : public RunFolder {
 protected:
  WantedRunsOf() {
    write_stl_ascii(folder_ / "tail.stl", sphere("tail", {0.45, 0, 0.7}, 0.2, 24));
    write_text(folder_ / "c.toml", read_text(folder_ / "c.toml") +
                                       "[[variant]]\nname = \"as it is\"\n[[variant]]\nname = "
                                       "\"tail\"\nadd = [\"tail.stl\"]\n");
    replace("speeds = [\"10 m/s\"]", "speeds = [\"10 m/s\", \"20 m/s\"]");
  }
  CampaignSetup setup() const { return prepare(read_campaign(folder_ / "c.toml")); }
  std::vector<bool> marked(const WantedRuns& wanted) const {
    std::vector<bool> marks;
    for (const MatrixRun& run : matrix_with(wanted, setup())) marks.push_back(run.wanted);
    return marks;
  }
  std::string refusal(const WantedRuns& wanted) const {
    try {
      matrix_with(wanted, setup());
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  CampaignResult run_some(const WantedRuns& wanted) {
    const CampaignSetup s = setup();
    CampaignWatcher quiet;
    return run_campaign(s, folder_ / "runs", {.threads = 2}, quiet, {}, matrix_with(wanted, s));
  }
};

TEST_F(WantedRunsOf, AVariantAtASpeedOrAllOfEither) {
  using Marks = std::vector<bool>;
  EXPECT_EQ(marked({}), (Marks{true, true, true, true}));
  EXPECT_EQ(marked({{"tail"}, {}}), (Marks{false, false, true, true}));
  EXPECT_EQ(marked({{}, {"36 km/h"}}), (Marks{true, false, true, false}));
  EXPECT_EQ(marked({{"tail"}, {"72 km/h"}}), (Marks{false, false, false, true}));
  EXPECT_EQ(marked({{"tail", "as it is"}, {"20 m/s"}}), (Marks{false, true, false, true}));
}

TEST_F(WantedRunsOf, WhatTheCampaignHasNotIsRefusedWithWhatItHas) {
  EXPECT_NE(refusal({{"lowered"}, {}}).find("name one of: as it is, tail"), std::string::npos);
  EXPECT_NE(refusal({{}, {"50 km/h"}}).find("name one of: 36 km/h, 72 km/h"), std::string::npos);
  EXPECT_NE(refusal({{}, {"fast"}}).find("--at"), std::string::npos);
}

TEST_F(WantedRunsOf, OthersAreLeftAndComparedWithWhereTheyAreDone) {
  const CampaignResult first = run_some({{"as it is"}, {"36 km/h"}});
  ASSERT_EQ(first.runs.size(), 1u);
  EXPECT_EQ(first.failures, 0);
  EXPECT_FALSE(std::filesystem::exists(folder_ / "runs/as-it-is_72-kmh"));
  const CampaignResult second = run_some({{"tail"}, {"36 km/h"}});
  ASSERT_EQ(second.runs.size(), 2u) << "the baseline is there to compare with";
  EXPECT_EQ(second.runs[1].run.variant, "tail");
  // The whole campaign takes both as they are, to the same bits as if it had been run at once.
  const double some = second.runs[1].cd.mean;
  EXPECT_EQ(run_some({}).runs.size(), 4u);
  std::filesystem::remove_all(folder_ / "runs");
  EXPECT_EQ(run_some({}).runs.at(2).cd.mean, some);
}

}  // namespace
}  // namespace dunefield::test
