// Campaigns in two dimensions.
#include <cmath>

#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class Sections : public testing::Test {
 protected:
  CampaignSetup setup(const std::string& section, const std::string& more = "") {
    write_text(folder_ / "c.toml",
               "[section]\n" + section +
                   "\n[vehicle]\nshapes = [\"wing\"]\n[[shape]]\nname = \"wing\"\nkind = "
                   "\"wing\"\nsection = \"0012\"\nleading_edge = [\"1 m\", \"0 m\", \"2 m\"]\n"
                   "chord = \"0.5 m\"\nspan = \"2 m\"\nincidence = \"5 deg\"\nturned_over = "
                   "false\n[mesh]\nrecipe = \"sketch\"\n[runs]\nspeeds = [\"60 m/s\"]\n" +
                   more);
    return prepare(read_campaign(folder_ / "c.toml"));
  }
  std::string refused(const std::string& section, const std::string& more = "") {
    try {
      setup(section, more);
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  TemporaryFolder folder_;
};

TEST_F(Sections, AreReferredToChordAndAMetreOfSpan) {
  const CampaignSetup s = setup("ground = false");
  const RunSetup& run = s.variants.front();
  EXPECT_NEAR(run.reference().length, 0.5, 1e-3);
  EXPECT_NEAR(run.reference().frontal_area, 0.5, 1e-3);
  const Box body = bounds(run.vehicle.surface);
  EXPECT_NEAR(body.size().y, 1, 1e-12);
  EXPECT_NEAR(body.lo.x, -0.25 * body.size().x, 1e-9) << "the quarter chord is the origin";
  EXPECT_NEAR(body.centre().z, 0, 1e-9);
  EXPECT_LT(run.tunnel_box().lo.z, -10) << "as much air below as above";
  const MeshOptions mesh = run.mesh_options();
  EXPECT_TRUE(mesh.section);
  EXPECT_NEAR(expected_y_plus(run, mesh.layers.first_height, 60), 1, 1e-9) << "resolved";
}

TEST_F(Sections, OverTheRoadHaveTheirClearanceAndHeight) {
  const CampaignSetup s = setup("clearance = \"40 mm\"\nreference = \"height\"");
  const Box body = bounds(s.variants.front().vehicle.surface);
  EXPECT_NEAR(body.lo.z, 0.04, 1e-12);
  EXPECT_NEAR(s.variants.front().reference().frontal_area, body.size().z, 1e-9);
  EXPECT_DOUBLE_EQ(s.variants.front().tunnel_box().lo.z, 0);
}

TEST_F(Sections, CutFarFromTheMiddleLieInTheTunnelAllTheSame) {
  for (const char* at : {"at = \"0.8 m\"", "at = \"-0.9 m\""}) {
    const CampaignSetup s = setup(at);
    const RunSetup& run = s.variants.front();
    EXPECT_NEAR(bounds(run.vehicle.surface).centre().y, 0, 1e-12);
    EXPECT_GT(build_mesh(run).mesh.cells, 5000);
  }
}

TEST_F(Sections, SweepIncidenceAndClearance) {
  const CampaignSetup s = setup("clearance = \"100 mm\"",
                                "[runs.sweep]\n\"section.clearance\" = [\"100 mm\", \"50 mm\"]\n"
                                "\"shape.wing.incidence\" = [\"0 deg\", \"5 deg\"]\n");
  ASSERT_EQ(s.matrix().size(), 4u);
  for (const MatrixRun& r : s.matrix()) {
    const RunSetup run = s.run(r);
    double clearance = 0, incidence = -1;
    for (const Setting& set : run.settings)
      (set.key == "section.clearance" ? clearance : incidence) = std::stod(set.value);
    EXPECT_NEAR(1000 * bounds(run.vehicle.surface).lo.z, clearance, 1e-9);
    EXPECT_EQ(bounds(run.vehicle.surface).size().z > 0.062, incidence > 0);
    EXPECT_NEAR(run.reference().length, 0.5, 2e-3) << "one frame for all";
  }
}

TEST_F(Sections, RunFromTheFileToARecord) {
  const CampaignSetup s = setup("ground = false");
  CampaignWatcher silent;
  run_campaign(s, folder_ / "runs", {2, nullptr}, silent);
  const Figures r = read_figures(folder_ / "runs" / run_name(s, {0, 60}));
  // Thin profiles lift by 2 pi sin(5 degrees), this one by a little less at this fineness.
  EXPECT_NEAR(r.cl.mean, 0.548, 0.05);
  EXPECT_NEAR(r.cd.mean, 0.011, 0.004);
  EXPECT_TRUE(r.settled());
}

TEST_F(Sections, RefuseWhatHasNoMeaningInTwoDimensions) {
  EXPECT_NE(refused("at = \"0 m\"", "[tunnel]\nhalf = true\n").find("no halves"),
            std::string::npos);
  EXPECT_NE(refused("at = \"0 m\"", "[wheels]\nparts = [\"wing\"]\n").find("do not turn"),
            std::string::npos);
  EXPECT_NE(refused("at = \"7 m\"").find("nothing of the vehicle lies at y = 7"),
            std::string::npos);
  EXPECT_NE(refused("ground = false\nclearance = \"1 cm\"").find("clearance"), std::string::npos);
  for (const char* layers : {"without = [\"wing\"]", "total = \"3 mm\"", "total_leaves = 0.7"})
    EXPECT_NE(
        refused("at = \"0 m\"", std::string("[mesh.layers]\n") + layers + "\n").find("layers"),
        std::string::npos)
        << layers;
  EXPECT_NE(refused("reference = \"width\"").find("not known"), std::string::npos);
  EXPECT_NE(refused("at = \"0 m\"\nheight = 3").find("height"), std::string::npos);
}

}  // namespace
}  // namespace dunefield::test
