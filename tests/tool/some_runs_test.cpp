// Some runs of a campaign, as they are asked for on the command line.
#include <gtest/gtest.h>

#include <tests/tool/brick.hpp>

namespace dunefield::test {
namespace {

TEST(Tool, LeavesRunsThatAreNotWanted) {
  const TemporaryFolder folder;
  const std::string file = brick_campaign(folder);
  const ProcessResult r = tool_run("--variant fin --at \"60 km/h\" " + file + " --plain");
  EXPECT_EQ(r.exit_code, 0) << r.err;
  EXPECT_NE(r.out.find("run 1 of 1: fin at 60 km/h"), std::string::npos) << r.out;
  EXPECT_TRUE(std::filesystem::exists(folder / "c.runs/fin_60-kmh"));
  EXPECT_FALSE(std::filesystem::exists(folder / "c.runs/plain_60-kmh"));
}

}  // namespace
}  // namespace dunefield::test
