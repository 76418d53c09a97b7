// Cores and fans as a campaign has them.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class Devices : public testing::Test {
 protected:
  Devices() {
    write_stl_ascii(folder_ / "box.stl",
                    rounded_box("body", {{-0.5, -0.2, 0.1}, {0.5, 0.2, 0.5}}, 0.05));
  }
  CampaignSetup setup(const std::string& devices) {
    write_text(folder_ / "c.toml",
               "[vehicle]\nfiles = [\"box.stl\"]\n[tunnel]\nhalf = true\nahead = 2\nbehind = "
               "3\nblockage = 0.03\n[wheels]\nfind = false\n[mesh]\nsurface_size = \"60 "
               "mm\"\n[flow]\niterations = 60\n[runs]\nspeeds = [\"20 m/s\"]\n" +
                   devices);
    return prepare(read_campaign(folder_ / "c.toml"));
  }
  std::string refused(const std::string& devices) {
    try {
      setup(devices);
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  TemporaryFolder folder_;
  const std::string core_ =
      "[[core]]\nname = \"radiator\"\ncentre = [\"-0.8 m\", \"0 m\", \"0.3 m\"]\nwidth = \"0.3 "
      "m\"\nheight = \"0.3 m\"\ndepth = \"0.1 m\"\n";
};

TEST_F(Devices, APartOfTheSurfaceMayBeTheirPlace) {
  Surface s = rounded_box("body", {{-0.5, -0.2, 0.1}, {0.5, 0.2, 0.5}}, 0.05);
  append(s, rounded_box("matrix", {{-0.85, -0.15, 0.15}, {-0.75, 0.15, 0.45}}, 0));
  write_stl_ascii(folder_ / "box.stl", s);
  const std::string at_part = "[[core]]\nname = \"radiator\"\nquadratic = 2\npart = ";
  const CampaignSetup with = setup(at_part + "\"matrix\"\n");
  ASSERT_EQ(with.variants[0].devices.size(), 1u);
  const AirDevice& d = with.variants[0].devices[0];
  EXPECT_NEAR(d.depth, 0.1, 1e-6);
  EXPECT_NEAR(d.width, 0.3, 1e-6);
  EXPECT_NEAR(d.height, 0.3, 1e-6);
  EXPECT_NEAR(d.centre.z, 0.3, 1e-6);
  EXPECT_LT(with.variants[0].vehicle.surface.find_part("matrix"), 0) << "air goes through it";
  EXPECT_NE(refused(at_part + "\"oven\"\n").find("oven"), std::string::npos);
  EXPECT_NE(refused(at_part + "\"matrix\"\nwidth = \"1 m\"\n").find("the part says it"),
            std::string::npos);
}

TEST_F(Devices, AreMeshedRunAndToldAmongTheParts) {
  const CampaignSetup s =
      setup(core_ +
            "quadratic = 2\nair_in = \"20 degC\"\nair_out = \"50 degC\"\n[[variant]]\n"
            "name = \"with\"\n[[variant]]\nname = \"without\"\ndevices = []\n");
  EXPECT_EQ(s.variants[0].devices.size(), 1u);
  EXPECT_TRUE(s.variants[1].devices.empty());
  CampaignWatcher silent;
  const auto runs = run_campaign(s, folder_ / "runs", {2, nullptr}, silent).runs;
  ASSERT_EQ(runs.size(), 2u);
  const Record r = Record::open(folder_ / "runs" / run_name(s, {0, 20}));
  ASSERT_EQ(r.balance.devices.size(), 1u);
  const DeviceFigures& d = r.balance.devices[0];
  EXPECT_GT(d.mass_flow, 0);
  EXPECT_LT(d.mass_flow, 1.2 * 20 * 0.09) << "the core holds air back";
  EXPECT_NEAR(d.heat, 1006 * 30 * d.mass_flow, 1e-6 * d.heat);
  EXPECT_EQ(r.balance.parts.back().part, "radiator");
  EXPECT_NEAR(r.balance.momentum_drag / r.balance.total().force.x, 1, 0.05)
      << "what the core takes the stream has lost";
}

TEST_F(Devices, BadOnesAreRefusedInOneLine) {
  EXPECT_NE(refused(core_).find("no resistance"), std::string::npos);
  EXPECT_NE(refused(core_ + "quadratic = -1\n").find("quadratic"), std::string::npos);
  EXPECT_NE(refused(core_ + "speeds = [\"2 m/s\", \"4 m/s\"]\ndrops = [20, 10]\n").find("fall"),
            std::string::npos);
  EXPECT_NE(refused(core_ + "speeds = [\"4 m/s\", \"2 m/s\"]\ndrops = [10, 20]\n").find("rise"),
            std::string::npos);
  EXPECT_NE(refused(core_ + "speeds = [\"4 m/s\"]\ndrops = [10, 20]\n").find("one value"),
            std::string::npos);
  EXPECT_NE(refused("[[fan]]\nname = \"fan\"\ncentre = [\"-0.8 m\", \"0 m\", \"0.3 m\"]\naxis = "
                    "[-1, 0, 0]\nwidth = \"0.3 m\"\nheight = \"0.3 m\"\ndepth = \"0.1 m\"\nspeeds "
                    "= [\"1 m/s\"]\nrises = [50]\n")
                .find("against the stream"),
            std::string::npos);
  EXPECT_NE(
      refused(core_ + "quadratic = 1\nair_in = \"20 degC\"\nair_out = \"60 K\"\n").find("units"),
      std::string::npos)
      << "or the heat is told for what nobody meant";
  EXPECT_NE(refused(core_ + "quadratic = 1\n[[variant]]\nname = \"v\"\ndevices = [\"oil\"]\n")
                .find("oil"),
            std::string::npos);
}

}  // namespace
}  // namespace dunefield::test
