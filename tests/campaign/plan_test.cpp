// What a campaign will take, as far as can be told beforehand.
#include <gtest/gtest.h>

#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/plan.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class Plan : public testing::Test {
 protected:
  std::vector<PlannedRun> of(const std::string& accuracy, const std::string& rest = "",
                             double only_at = 0) {
    write_stl_ascii(folder_ / "box.stl", rounded_box("box", {{-1, -0.5, 0.2}, {1, 0.5, 1.2}}, 0.1));
    write_text(folder_ / "c.toml",
               "[vehicle]\nfiles = [\"box.stl\"]\n[mesh]\nsurface_size = \"200 mm\"\n"
               "[flow]\niterations = 5000\naccuracy = " +
                   accuracy + "\n[runs]\nspeeds = [\"10 m/s\", \"20 m/s\"]\n" + rest);
    const CampaignSetup setup = prepare(read_campaign(folder_ / "c.toml"));
    std::vector<MatrixRun> matrix = setup.matrix();
    for (MatrixRun& run : matrix) run.wanted = only_at == 0 || run.speed == only_at;
    return plan_of(setup, folder_ / "c.runs", 1, {}, matrix);
  }
  TemporaryFolder folder_;
};

TEST_F(Plan, ExpectsFourTimesTheIterationsOfAMeanForHalfItsUncertainty) {
  const auto at_2 = of("0.02"), at_1 = of("0.01"), at_half = of("0.005");
  ASSERT_EQ(at_1.size(), 2u);
  for (std::size_t run = 0; run < 2; ++run)
    EXPECT_NEAR((at_half[run].iterations - at_1[run].iterations) /
                    (at_1[run].iterations - at_2[run].iterations),
                4, 1e-9);
}

TEST_F(Plan, ExpectsLessOfARunThatStartsFromAnother) {
  const auto plan = of("0.01"), all_from_stream = of("0.01\nstart = \"stream\"");
  EXPECT_LT(plan[1].iterations, plan[0].iterations);
  EXPECT_EQ(all_from_stream[1].iterations, plan[0].iterations);
}

TEST_F(Plan, PredictsEachVariantByItself) {
  const auto plan = of(
      "0.01",
      "[[variant]]\nname = \"as it is\"\n[[variant]]\nname = \"large\"\n"
      "[[variant.change]]\npart = \"box\"\nscale = 1.5\nabout = [\"0 m\", \"0 m\", \"0.2 m\"]\n");
  ASSERT_EQ(plan.size(), 4u);
  EXPECT_EQ(plan[0].cells, plan[1].cells);
  EXPECT_GT(plan[0].cells, 500);
  EXPECT_GT(plan[2].cells, 1.5 * plan[0].cells);
}

TEST_F(Plan, LeavesOutWhatIsNotWanted) {
  const auto plan = of("0.01", "", 20);
  ASSERT_EQ(plan.size(), 1u);
  EXPECT_EQ(plan[0].speed, 20);
  EXPECT_GT(plan[0].cells, 500);
  EXPECT_EQ(plan[0].iterations, of("0.01")[0].iterations) << "there is nothing to start from";
}

TEST_F(Plan, SharesARunOutOverRanksThatAreWorthIt) {
  PlannedRun run;
  run.cells = 4e6, run.iterations = 400, run.meshes = true;
  const ClusterNeed many = cluster_need(run), few = cluster_need(run, 8);
  EXPECT_EQ(many.ranks, 80);
  EXPECT_EQ(few.ranks, 8);
  EXPECT_NEAR(few.flow_seconds / many.flow_seconds, 10, 1e-9);
  EXPECT_NEAR(few.rank_bytes / many.rank_bytes, 10, 1e-9);
  EXPECT_GT(many.first_bytes, 10 * many.rank_bytes) << "it makes the mesh alone";
  EXPECT_GT(many.core_hours(), few.core_hours()) << "ranks wait for the mesh";
  run.meshes = false;
  EXPECT_EQ(cluster_need(run).mesh_seconds, 0);
  run.cells = 20'000;
  EXPECT_EQ(cluster_need(run).ranks, 1);
  EXPECT_EQ(cluster_need(run).first_bytes, cluster_need(run).rank_bytes) << "it is the only one";
}

}  // namespace
}  // namespace dunefield::test
