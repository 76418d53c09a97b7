// From a surface alone to a campaign file.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/campaign/first_guess.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

const std::filesystem::path van = DUNEFIELD_SOURCE "/demo/marram.stl",
                            scan = DUNEFIELD_SOURCE "/demo/marram-dirty.stl";

TEST(FirstGuess, GivesACampaignFileThatReadsAsItself) {
  const TemporaryFolder folder;
  for (const auto& surface : {van, scan}) {
    const FirstGuess guess = first_guess({surface}, {.speeds = {20, 30}});
    write_text(folder / "c.toml", campaign_text(guess, folder.path()));
    const Campaign c = read_campaign(folder / "c.toml");
    EXPECT_EQ(c.placing.unit, guess.campaign.placing.unit);
    EXPECT_EQ(c.placing.nose, guess.campaign.placing.nose);
    EXPECT_EQ(c.tunnel.half, guess.campaign.tunnel.half);
    EXPECT_NEAR(c.speeds.at(1), 30, 1e-9);
    const RunSetup s = prepare(c).variants.front();
    EXPECT_EQ(s.vehicle.wheels.size(), 4u);
    EXPECT_NEAR(bounds(s.vehicle.surface).size().x, 5.2, 0.1);
  }
}

TEST(FirstGuess, NamesFilesFromWhereTheCampaignFileStands) {
  const FirstGuess guess = first_guess({van});
  EXPECT_NE(campaign_text(guess, van.parent_path()).find("files = [\"marram.stl\"]"),
            std::string::npos);
  EXPECT_NE(campaign_text(guess, "").find("marram.stl\"]"), std::string::npos)
      << "the present folder";
}

TEST(FirstGuess, HalfIsForVehiclesWhoseSidesAreAlike) {
  EXPECT_TRUE(first_guess({van}).campaign.tunnel.half);
  EXPECT_FALSE(first_guess({van}, {.half = false}).campaign.tunnel.half);
  const TemporaryFolder folder;
  Surface s = read_stl(van);
  append(s, rounded_box("door", Box{{-0.5, 0.9, 0.5}, {0, 1.3, 1.5}}, 0));
  write_stl_ascii(folder / "open.stl", s);
  EXPECT_FALSE(first_guess({folder / "open.stl"}).campaign.tunnel.half);
}

TEST(FirstGuess, WhatIsNoVehicleIsRefused) {
  const TemporaryFolder folder;
  const auto refusal = [&](const Surface& s) {
    write_stl_ascii(folder / "s.stl", s);
    try {
      first_guess({folder / "s.stl"});
    } catch (const InputError& e) {
      return std::string(e.what());
    }
    return std::string();
  };
  Surface flat = rounded_box("plate", Box{{0, 0, 0}, {4, 2, 1}}, 0);
  for (Vec3& p : flat.points) p.z = 0.5;
  EXPECT_NE(refusal(flat).find("is flat"), std::string::npos) << refusal(flat);
  Surface one = rounded_box("b", Box{{0, 0, 0}, {4, 2, 1}}, 0);
  one.triangles.resize(2), one.part_of.resize(2);
  EXPECT_NE(refusal(one).find("no vehicle"), std::string::npos);
  write_text(folder / "empty.stl", "solid a\nendsolid a\n");
  EXPECT_THROW(first_guess({folder / "empty.stl"}), InputError);
  EXPECT_THROW(first_guess({folder / "none.stl"}), InputError);
  EXPECT_THROW(first_guess({van}, {.up = "-x"}), InputError) << "along the nose";
}

}  // namespace
}  // namespace dunefield::test
