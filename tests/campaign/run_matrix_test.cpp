// Runs that differ in any numeric key of the campaign file.
#include <gtest/gtest.h>

#include <set>

#include <dunefield/base/error.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class RunMatrix : public testing::Test {
 protected:
  RunMatrix() {
    write_stl_ascii(folder_ / "box.stl", rounded_box("box", {{-1, -0.5, 0.2}, {1, 0.5, 1.2}}, 0.1));
  }
  Campaign campaign(const std::string& runs, const std::string& rest = "") {
    write_text(folder_ / "c.toml",
               "[vehicle]\nfiles = [\"box.stl\"]\n[mesh]\nsurface_size = \"200 mm\"\n[runs]\n"
               "speeds = [\"10 m/s\", \"20 m/s\"]\n" +
                   runs + rest);
    return read_campaign(folder_ / "c.toml");
  }
  std::string refusal(const std::string& runs, const std::string& rest = "") {
    try {
      prepare(campaign(runs, rest));
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  std::vector<std::string> names(const CampaignSetup& s) {
    std::vector<std::string> all;
    for (const MatrixRun& r : s.matrix()) all.push_back(run_name(s, r));
    return all;
  }
  TemporaryFolder folder_;
};

TEST_F(RunMatrix, IsEveryCombinationOfWhatIsListed) {
  const CampaignSetup s = prepare(campaign(
      "yaw = [\"0 deg\", \"5 deg\"]\n[runs.sweep]\n\"air.density\" = [\"1.2 kg/m3\", \"1.0 "
      "kg/m3\"]\n"));
  ASSERT_EQ(s.matrix().size(), 8u);
  const RunSetup last = s.run(s.matrix().back());
  EXPECT_EQ(last.conditions.speed, 20);
  EXPECT_NEAR(last.conditions.yaw, 5 * 3.14159265358979 / 180, 1e-12);
  EXPECT_EQ(last.conditions.air.density, 1.0);
  EXPECT_EQ(in_words(last.settings), "yaw 5 deg, air.density 1.0 kg/m3");
  EXPECT_EQ(names(s).front(), "as-it-is_36-kmh_air-density-1p2-kg-m3");
  EXPECT_EQ(names(s).back(), "as-it-is_72-kmh_yaw-5_air-density-1p0-kg-m3");
}

TEST_F(RunMatrix, KeysThatEndAlikeHaveFoldersOfTheirOwn) {
  CampaignSetup s = prepare(campaign(""));
  s.campaign.settings = {
      {{"variant.a.change.1.turn", "2 deg"}, {"variant.b.change.1.turn", "0 deg"}},
      {{"variant.a.change.1.turn", "0 deg"}, {"variant.b.change.1.turn", "2 deg"}},
      {{"variant.a.change.1.turn", "2 deg"}},
      {{"variant.b.change.1.turn", "2 deg"}}};
  std::set<std::string> different;
  for (const Settings& settings : s.campaign.settings) {
    std::string name;
    for (const Setting& one : settings) name += setting_name(one, s.campaign);
    different.insert(name);
  }
  EXPECT_EQ(different.size(), 4u);
}

TEST_F(RunMatrix, AFileThatIsEditedMeanwhileChangesNoRun) {
  const CampaignSetup s =
      prepare(campaign("[runs.sweep]\n\"air.density\" = [\"1.2 kg/m3\", "
                       "\"1.0 kg/m3\"]\n"));
  write_text(folder_ / "c.toml", "name = \"half an edit");
  EXPECT_EQ(s.run(s.matrix().back()).conditions.air.density, 1.0);
}

TEST_F(RunMatrix, OrWhatIsListedAsCombinations) {
  const CampaignSetup s = prepare(campaign(
      "[[runs.combination]]\n\"air.density\" = \"1 kg/m3\"\n\"runs.yaw\" = \"2 deg\"\n"
      "[[runs.combination]]\n\"air.density\" = \"1.3 kg/m3\"\n\"runs.yaw\" = \"4 deg\"\n"));
  ASSERT_EQ(s.matrix().size(), 4u);
  EXPECT_EQ(s.run(s.matrix()[0]).conditions.air.density, 1.0) << "the first is set, too";
  EXPECT_EQ(s.run(s.matrix()[3]).conditions.air.density, 1.3);
  EXPECT_NEAR(s.run(s.matrix()[3]).conditions.yaw, 0.0698131700797732, 1e-12);
}

TEST_F(RunMatrix, MovesWhatItSaysAndKeepsTheFrame) {
  const std::string variants =
      "[[variant]]\nname = \"as it is\"\n[[variant]]\nname = \"lifted\"\n[[variant.change]]\npart "
      "= \"box\"\nmove = [\"0 m\", \"0 m\", \"0.1 m\"]\n[[variant.change]]\npart = \"box\"\nturn = "
      "\"0 deg\"\n";
  const CampaignSetup s = prepare(campaign(
      "[runs.sweep]\n\"variant.lifted.change.2.turn\" = [\"0 deg\", \"10 deg\"]\n", variants));
  // The baseline has no such key: it is run once at each speed.
  ASSERT_EQ(names(s), (std::vector<std::string>{
                          "as-it-is_36-kmh", "as-it-is_72-kmh", "lifted_36-kmh_2-turn-0-deg",
                          "lifted_72-kmh_2-turn-0-deg", "lifted_36-kmh_2-turn-10-deg",
                          "lifted_72-kmh_2-turn-10-deg"}));
  const RunSetup straight = s.run(s.matrix()[2]), turned = s.run(s.matrix()[4]);
  EXPECT_GT(bounds(turned.vehicle.surface).size().z,
            bounds(straight.vehicle.surface).size().z + 0.1);
  EXPECT_EQ(turned.tunnel_box().size().x, straight.tunnel_box().size().x);
  EXPECT_EQ(turned.reference().frontal_area, straight.reference().frontal_area);
}

TEST_F(RunMatrix, RefusesWhatIsNoKeyNoNumberOrNothing) {
  EXPECT_NE(refusal("[runs.sweep]\n\"compare.want\" = [1]\n").find("no key that runs"),
            std::string::npos);
  EXPECT_NE(refusal("[runs.sweep]\n\"air.density\" = [\"thick\"]\n").find("no number"),
            std::string::npos);
  EXPECT_NE(refusal("[runs.sweep]\n\"air.density\" = []\n").find("is empty"), std::string::npos);
  EXPECT_NE(refusal("[runs.sweep]\n\"air.density\" = [\"1 kg/m3\", \"1 kg/m3\"]\n").find("twice"),
            std::string::npos);
  EXPECT_NE(refusal("[runs.sweep]\n\"air.densty\" = [\"1 kg/m3\"]\n").find("unknown key"),
            std::string::npos);
  EXPECT_NE(refusal("[runs.sweep]\n\"air.density\" = [\"1 mm\"]\n").find("density"),
            std::string::npos);
  EXPECT_NE(refusal("[runs.sweep]\n\"variant.b.ride.pitch\" = [\"1 deg\"]\n",
                    "[[variant]]\nname = \"a\"\n")
                .find("there is no 'variant.b.ride.pitch'"),
            std::string::npos);
  EXPECT_NE(refusal("yaw = [\"0 deg\", \"5 deg\"]\n", "[tunnel]\nhalf = true\n").find("half"),
            std::string::npos);
  EXPECT_NE(refusal("yaw = [\"0 deg\"]\n[[runs.combination]]\n\"air.density\" = \"1 kg/m3\"\n")
                .find("both there"),
            std::string::npos);
}

}  // namespace
}  // namespace dunefield::test
