// The page in a real browser, Debian's Chromium without a display: what is checked there stands in
// viewer/tests/browser.
#include <gtest/gtest.h>

#include <dunefield/report/report.hpp>
#include <tests/report/ball_campaign.hpp>

namespace dunefield::test {
namespace {

#ifdef DUNEFIELD_VIEWER

class InBrowser : public BallCampaign {
 protected:
  void SetUp() override {
    if (shell("chromium --version").exit_code != 0)
      GTEST_SKIP() << "chromium is not installed (scripts/install-dependencies)";
  }
  /// Runs the checks of a page. @param variables what they are told in the environment
  void check(const std::string& name, const std::string& variables) {
    const std::string built = "build/browser-" + name;
    const ProcessResult r = shell("cd " DUNEFIELD_VIEWER " && " DUNEFIELD_NODE " build.mjs " +
                                  built + " browser && VIEWER=" DUNEFIELD_VIEWER " " + variables +
                                  " " DUNEFIELD_NODE " --test " + built + "/" + name + ".test.mjs");
    EXPECT_EQ(r.exit_code, 0) << r.out << r.err;
  }
};

TEST_F(InBrowser, TheReportShowsTurnsMeasuresAndPrints) {
  CampaignWatcher silent;
  run_campaign(setup(), folder_ / "runs", {2, nullptr}, silent);
  write_text(folder_ / "report.html", report_page(setup(), folder_ / "runs"));
  check("report", "REPORT=" + (folder_ / "report.html").string());
}

TEST_F(InBrowser, RunsAreExploredWithTheMouse) {
  CampaignWatcher silent;
  run_campaign(setup(), folder_ / "c.runs", {2, nullptr}, silent);
  const BackgroundTool server("explore " + (folder_ / "c.toml").string() + " --json",
                              folder_.path());
  const std::string told = server.told("}");
  const std::size_t from = told.find("http://"), to = told.find('"', from);
  ASSERT_NE(from, std::string::npos) << told;
  check("explore", "EXPLORE=" + told.substr(from, to - from) + " TOOL=" DUNEFIELD_TOOL +
                       " FOLDER=" + folder_.path().string());
}

TEST_F(InBrowser, TheWatchedPageFollowsShapesNumbersAndErrors) {
  longer("\"air.density\" = [\"1.2 kg/m3\", \"1.4 kg/m3\"]");
  const BackgroundTool server("watch " + (folder_ / "c.toml").string() + " --recipe own --json",
                              folder_.path());
  const std::string told = server.told("}");
  const std::size_t from = told.find("http://"), to = told.find('"', from);
  ASSERT_NE(from, std::string::npos) << told;
  check("watch", "WATCH=" + told.substr(from, to - from) +
                     " SHAPE=" + (folder_ / "ball.stl").string() + " CAMPAIGN=" +
                     (folder_ / "c.toml").string() + " SERVER=" + std::to_string(server.number()));
}

#endif

}  // namespace
}  // namespace dunefield::test
