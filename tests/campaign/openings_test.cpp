// Parts that air passes through, and floors that move in parts, as a campaign has them.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

/// A box whose front carries an intake and whose back a pipe's end.
class Openings : public testing::Test {
 protected:
  Openings() {
    Surface s = rounded_box("body", {{-0.5, -0.2, 0.1}, {0.5, 0.2, 0.5}}, 0);
    s = cut_in_three(s);
    write_stl_ascii(folder_ / "box.stl", s);
  }
  static Surface cut_in_three(const Surface& box) {
    Surface s = box;
    s.part_names = {"body", "intake", "exhaust"};
    for (std::size_t t = 0; t < s.size(); ++t) {
      const Vec3 n = unit(s.area_vector(t));
      s.part_of[t] = n.x < -0.9 ? 1 : n.x > 0.9 ? 2 : 0;
    }
    return s;
  }
  CampaignSetup setup(const std::string& more, const std::string& tunnel = "") {
    write_text(folder_ / "c.toml",
               "[vehicle]\nfiles = [\"box.stl\"]\n[tunnel]\nhalf = true\nahead = 2\nbehind = "
               "3\nblockage = 0.03\n" +
                   tunnel +
                   "[wheels]\nfind = false\n[mesh]\nsurface_size = \"60 "
                   "mm\"\n[flow]\niterations = 40\n[runs]\nspeeds = [\"20 m/s\"]\n" +
                   more);
    return prepare(read_campaign(folder_ / "c.toml"));
  }
  Record result_of(const CampaignSetup& s) {
    CampaignWatcher silent;
    run_campaign(s, folder_ / "runs", {2, nullptr}, silent);
    return Record::open(folder_ / "runs" / run_name(s, {0, 20}));
  }
  std::string refused(const std::string& more, const std::string& tunnel = "") {
    try {
      setup(more, tunnel);
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  TemporaryFolder folder_;
  const std::string both_ =
      "[[opening]]\npart = \"intake\"\ntakes = \"0.8 kg/s\"\n"
      "[[opening]]\npart = \"exhaust\"\nblows = \"2000 g/s\"\n";
};

TEST_F(Openings, PassWhatTheyAreToldTo) {
  const Record r = result_of(setup(both_));
  ASSERT_EQ(r.balance.devices.size(), 2u);
  const DeviceFigures &in = r.balance.devices[0], &out = r.balance.devices[1];
  EXPECT_NEAR(in.mass_flow, 0.8, 1e-10) << "of the whole vehicle";
  EXPECT_NEAR(out.mass_flow, -2, 1e-10);
  EXPECT_NEAR(in.mean_velocity, 0.8 / (1.2 * in.area), 1e-9);
  EXPECT_LT(std::abs(r.checks.mass_balance), 1e-10);
  const double drag = r.balance.total().force.x;
  EXPECT_NEAR(r.balance.momentum_drag / drag, 1, 0.06) << "what the vehicle gets the stream loses";
}

TEST_F(Openings, WhatIsBlownOutPushes) {
  const CampaignSetup with = setup(both_ +
                                   "[[variant]]\nname = \"shut\"\ndevices = []\n"
                                   "[[variant]]\nname = \"open\"\n");
  EXPECT_TRUE(with.variants[0].openings.empty());
  EXPECT_EQ(with.variants[1].openings.size(), 2u);
  CampaignWatcher silent;
  const auto runs = run_campaign(with, folder_ / "runs", {2, nullptr}, silent).runs;
  ASSERT_EQ(runs.size(), 2u);
  EXPECT_LT(runs[1].parts.back().cd, runs[0].parts.back().cd);
}

TEST_F(Openings, APressureDrawsAirIn) {
  const Record r = result_of(setup("[[opening]]\npart = \"intake\"\npressure = -300\n"));
  ASSERT_EQ(r.balance.devices.size(), 1u);
  EXPECT_GT(r.balance.devices[0].mass_flow, 0.5) << "drawn in by suction and by the stream";
  EXPECT_NEAR(r.balance.devices[0].pressure_change + r.balance.undisturbed_pressure, -300, 1e-6);
}

TEST_F(Openings, WhatMakesNoSenseIsRefused) {
  EXPECT_NE(refused("[[opening]]\npart = \"door\"\ntakes = \"1 kg/s\"\n").find("no part"),
            std::string::npos);
  EXPECT_NE(refused("[[opening]]\npart = \"intake\"\n").find("missing"), std::string::npos);
  EXPECT_NE(refused("[[opening]]\npart = \"intake\"\ntakes = \"1 kg/s\"\npressure = 3\n")
                .find("not alone"),
            std::string::npos);
  EXPECT_NE(refused("[[opening]]\npart = \"intake\"\ntakes = \"1000 kg/s\"\n").find("brings"),
            std::string::npos);
}

TEST_F(Openings, BeltsMoveAndTheFloorAroundThemDoesNot) {
  const std::string belts =
      "[[belt]]\nlength = \"2 m\"\nwidth = \"0.3 m\"\n[[belt]]\nlength = \"0.3 m\"\nwidth = "
      "\"0.2 m\"\ncentre = [\"0.9 m\", \"0.5 m\", \"0 m\"]\n";
  const CampaignSetup s = setup(belts, "boundary_layer_from = \"-1.2 m\"\n");
  const Boundary road{"road", BoundaryKind::road, 0, 0};
  const BoundaryCondition floor = flow_case(s.variants[0], {road}).conditions.at(0);
  EXPECT_EQ(floor.velocity_at({0, 0.1, 0}).x, 20) << "on the belt";
  EXPECT_EQ(floor.velocity_at({0, 0.2, 0}).x, 0) << "beside it";
  EXPECT_EQ(floor.velocity_at({0.9, 0.45, 0}).x, 20) << "on the small one";
  EXPECT_EQ(floor.velocity_at({-1.3, 0.4, 0}).x, 20) << "where the boundary layer is sucked away";
  EXPECT_EQ(floor.velocity_at({-1.1, 0.4, 0}).x, 0);
  bool told = false;
  for (const std::string& line : s.variants[0].in_words())
    told = told || line.find("belts at 20.00 m/s: 2 x 0.3 m") != std::string::npos;
  EXPECT_TRUE(told);
  EXPECT_NE(refused("", "road = \"belts\"\n").find("no [[belt]]"), std::string::npos);
  EXPECT_NE(refused("[[belt]]\nlength = \"90 m\"\nwidth = \"1 m\"\n").find("beyond the tunnel"),
            std::string::npos);
}

TEST_F(Openings, FastAirIsRefusedWhereItIsNotMeantFor) {
  const std::string fast = "[air]\ntemperature = \"15 degC\"\n";
  const auto with = [&](const std::string& air, const std::string& flow, const std::string& runs) {
    write_text(folder_ / "f.toml",
               "[vehicle]\nfiles = [\"box.stl\"]\n[tunnel]\nhalf = true\n[wheels]\nfind = false\n" +
                   air + "[flow]\ncompressible = true\n" + flow + "[runs]\n" + runs);
    try {
      prepare(read_campaign(folder_ / "f.toml"));
    } catch (const InputError& e) {
      return std::string(e.what());
    }
    return std::string();
  };
  EXPECT_EQ(with(fast, "", "mach = [0.3]\n"), "");
  EXPECT_NE(with(fast, "", "mach = [0.9]\n").find("Mach 0.90"), std::string::npos);
  EXPECT_NE(with("[air]\ntotal_temperature = \"300 K\"\n", "", "speeds = [\"900 m/s\"]\n")
                .find("at rest"),
            std::string::npos)
      << "no air at rest becomes that fast";
  EXPECT_NE(with("[air]\ntemperature = \"15 K\"\n", "", "mach = [0.3]\n").find("unit"),
            std::string::npos);
  EXPECT_NE(with(fast, "turbulence = \"k-epsilon\"\n", "mach = [0.3]\n").find("fast air"),
            std::string::npos);
  EXPECT_NE(
      with(fast + "[wall_temperature]\ndoor = \"50 degC\"\n", "", "mach = [0.3]\n").find("door"),
      std::string::npos);
  EXPECT_NE(with(fast + "[wall_heat]\ndoor = \"1 kW/m2\"\n", "", "mach = [0.3]\n").find("door"),
            std::string::npos);
  EXPECT_NE(with(fast + "[wall_heat]\nbody = \"1 kW/m2\"\n[wall_temperature]\nbody = \"50 degC\"\n",
                 "", "mach = [0.3]\n")
                .find("both"),
            std::string::npos);
  EXPECT_NE(with("[air]\ntemperature = \"15 degC\"\ntotal_pressure = 1e5\n", "", "mach = [0.3]\n")
                .find("contradict"),
            std::string::npos);
}

TEST_F(Openings, TheStreamsOwnConditionsFollowFromThoseAtRest) {
  write_text(folder_ / "t.toml",
             "[vehicle]\nfiles = [\"box.stl\"]\n[tunnel]\nhalf = true\n[wheels]\nfind = false\n"
             "[air]\ntotal_temperature = \"300 K\"\ntotal_pressure = 120000\n"
             "[flow]\ncompressible = true\n[runs]\nmach = [0.3, 0.6]\n");
  const CampaignSetup s = prepare(read_campaign(folder_ / "t.toml"));
  for (const MatrixRun& r : s.matrix()) {
    const RunConditions c = s.run(r).conditions;
    const double mach = c.speed / c.fast->speed_of_sound(c.fast->temperature);
    EXPECT_NEAR(mach, r.speed == s.campaign.speeds[0] ? 0.3 : 0.6, 1e-9);
    const double ratio = 1 + 0.2 * mach * mach;
    EXPECT_NEAR(c.fast->temperature * ratio, 300, 1e-9);
    const double pressure = c.air.density * c.fast->gas_constant * c.fast->temperature;
    EXPECT_NEAR(pressure * std::pow(ratio, 3.5), 120000, 1e-6);
  }
  write_text(folder_ / "s.toml",
             read_text(folder_ / "t.toml")
                 .replace(read_text(folder_ / "t.toml").find("true\n[runs]"), 4, "false"));
  EXPECT_THROW(read_campaign(folder_ / "s.toml"), InputError) << "air of constant density has none";
}

TEST_F(Openings, AFlowInTimeFollowsTheSteadyOne) {
  const CampaignSetup s = setup("[time]\nstep = \"2 ms\"\nduration = \"60 ms\"\n");
  const Record r = result_of(s);
  ASSERT_GT(r.history.size(), 31u);
  EXPECT_EQ(r.history.front().time, 0);
  EXPECT_NEAR(r.history.back().time, 0.06, 1e-9);
  EXPECT_NEAR(r.history[r.history.size() - 30].time, 0.002, 1e-9);
  EXPECT_NE(r.status, RunStatus::steady);
  EXPECT_NE(refused("[time]\nstep = \"2 s\"\nduration = \"1 s\"\n").find("two steps"),
            std::string::npos);
  EXPECT_NE(refused("[time]\nstep = \"0 s\"\n").find("step"), std::string::npos);
  // The history can be read again, times included.
  EXPECT_EQ(history_from_csv(history_csv(r.history), "h").back().time, r.history.back().time);
}

}  // namespace
}  // namespace dunefield::test
