// Several vehicles in one tunnel.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/result_tables.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/campaign/together.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class SeveralVehicles : public testing::Test {
 protected:
  SeveralVehicles() {
    write_stl_ascii(folder_ / "box.stl",
                    rounded_box("body", {{-0.5, -0.2, 0.1}, {0.5, 0.2, 0.5}}, 0.05));
  }
  CampaignSetup setup(const std::string& follower, const std::string& more = "",
                      const std::string& tunnel = "half = true") {
    write_text(
        folder_ / "c.toml",
        "[[vehicle]]\nname = \"lead\"\nfiles = [\"box.stl\"]\n[[vehicle]]\nname = "
        "\"follower\"\nfiles = [\"box.stl\"]\n" +
            follower + "\n[tunnel]\nahead = 2\nbehind = 3\nblockage = 0.03\n" + tunnel +
            "\n[wheels]\nfind = false\n[mesh]\nsurface_size = \"60 mm\"\n[flow]\n"
            "iterations = 40\n" +
            more +
            (more.find("[runs]") == std::string::npos ? "[runs]\nspeeds = [\"20 m/s\"]\n" : ""));
    return prepare(read_campaign(folder_ / "c.toml"));
  }
  std::string refused(const std::string& follower, const std::string& more = "",
                      const std::string& tunnel = "half = true") {
    try {
      setup(follower, more, tunnel);
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  TemporaryFolder folder_;
};

TEST_F(SeveralVehicles, StandBehindEachOtherWithTheirOwnParts) {
  const RunSetup s = setup("spacing = \"0.8 m\"").variants[0];
  EXPECT_GE(s.vehicle.surface.find_part("body"), 0);
  EXPECT_GE(s.vehicle.surface.find_part("follower: body"), 0);
  ASSERT_EQ(s.vehicle.group.size(), 2u);
  EXPECT_NEAR(s.vehicle.group[1].bounds.lo.x - s.vehicle.group[0].bounds.hi.x, 0.8, 1e-9);
  EXPECT_NEAR(s.vehicle.group[1].frontal_area, s.vehicle.group[0].frontal_area, 1e-9);
  EXPECT_NEAR(s.common_frame().reference_area, s.vehicle.group[0].frontal_area, 1e-9)
      << "of the first alone";
}

TEST_F(SeveralVehicles, PartsAreToldApartByTheirNames) {
  const std::vector<VehicleGroup> all = setup("spacing = \"0.8 m\"").variants[0].vehicle.group;
  EXPECT_EQ(group_of(all, "body").name, "lead");
  EXPECT_EQ(group_of(all, "follower: body").name, "follower");
  EXPECT_EQ(group_of(all, "followers").name, "lead") << "a like name is none of its";
}

TEST_F(SeveralVehicles, AreToldInTheUnitsThatAreAskedFor) {
  Figures f;
  f.run.variant = "together", f.run.speed = 26.8224, f.run.recipe = "scout";
  f.reference = {26.8224, 1.2, 1, 1}, f.drag = 44.482216152605, f.cd.mean = 0.1;
  const auto us = comparison_tables({f}, "together", {}, display_units("us", ""));
  EXPECT_EQ(us[0].title, "60 mph");
  EXPECT_EQ(us[0].rows[0][6], "drag lbf");
  EXPECT_EQ(us[0].rows[1][6], "10.0");
  EXPECT_EQ(comparison_tables({f}, "together", {})[0].rows[1][6], "44.5");
}

TEST_F(SeveralVehicles, HaveTheSizesOfOneNotOfTheRow) {
  write_text(folder_ / "one.toml",
             "[vehicle]\nfiles = [\"box.stl\"]\n[tunnel]\nhalf = true\n[wheels]\nfind = false\n"
             "[runs]\nspeeds = [\"20 m/s\"]\n");
  const double one =
      prepare(read_campaign(folder_ / "one.toml")).variants[0].mesh_options().surface_size;
  const CampaignSetup two = setup("spacing = \"4 m\"");
  Recipe r = recipe("scout");
  RunSetup s = two.variants[0];
  s.recipe = r;
  EXPECT_NEAR(s.mesh_options().surface_size, one, 1e-9);
  EXPECT_EQ(s.mesh_options().boxes.size(), 6u) << "a wake and a floor for each";
}

TEST_F(SeveralVehicles, AreToldTogetherAndAlone) {
  const CampaignSetup s =
      setup("spacing = \"0.3 m\"",
            "[[variant]]\nname = \"together\"\n[[variant]]\nname = \"lead alone\"\nvehicles = "
            "[\"lead\"]\n[[variant]]\nname = \"follower alone\"\nvehicles = [\"follower\"]\n");
  CampaignWatcher silent;
  const auto runs = run_campaign(s, folder_ / "runs", {2, nullptr}, silent).runs;
  ASSERT_EQ(runs.size(), 3u);
  const auto all = together(runs);
  ASSERT_EQ(all.size(), 1u);
  ASSERT_EQ(all[0].rows.size(), 2u);
  double sum = 0;
  for (const TogetherRow& r : all[0].rows) {
    ASSERT_TRUE(r.share);
    EXPECT_NEAR(r.share->value, r.cd.mean / *r.alone, 1e-12);
    sum += r.cd.mean;
  }
  EXPECT_NEAR(sum, runs[0].cd.mean, 1e-4 * std::abs(sum)) << "both have the first one's area";
  EXPECT_TRUE(all[0].share_of_sum);
  // Read from the folder again, it is the same.
  EXPECT_EQ(read_figures(folder_ / "runs" / run_name(s, {0, 20})).vehicles.size(), 2u);
  const std::string title = derived_tables(runs, s.campaign).front().title;
  EXPECT_EQ(title, "Each vehicle, referred to its own frontal area");
}

TEST_F(SeveralVehicles, SpacingIsSweptInOneTunnelAndNotForOneThatIsAlone) {
  const CampaignSetup s =
      setup("spacing = \"0.3 m\"",
            "[[variant]]\nname = \"together\"\n[[variant]]\nname = \"lead alone\"\nvehicles = "
            "[\"lead\"]\n[runs]\nspeeds = [\"20 m/s\"]\n[runs.sweep]\n\"vehicle.follower.spacing\" "
            "= [\"0.3 m\", \"1.5 m\"]\n");
  ASSERT_EQ(s.matrix().size(), 3u);
  const RunSetup near = s.run(s.matrix()[0]), far = s.run(s.matrix()[1]);
  EXPECT_EQ(near.tunnel_box().hi.x, far.tunnel_box().hi.x);
  EXPECT_NEAR(far.vehicle.group[1].bounds.lo.x - near.vehicle.group[1].bounds.lo.x, 1.2, 1e-9);
}

TEST_F(SeveralVehicles, WhatCannotStandIsRefused) {
  EXPECT_NE(refused("spacing = \"-0.5 m\"").find("overlap"), std::string::npos);
  EXPECT_NE(refused("aside = \"1 m\"").find("half = true"), std::string::npos);
  EXPECT_EQ(refused("aside = \"1 m\"\nspacing = \"-1 m\"", "", "half = false"), "");
  EXPECT_NE(refused("", "[[variant]]\nname = \"v\"\nvehicles = [\"third\"]\n").find("third"),
            std::string::npos);
  EXPECT_NE(refused("name2 = 3").find("name2"), std::string::npos);
}

}  // namespace
}  // namespace dunefield::test
