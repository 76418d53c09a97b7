// The report in a real browser: Debian's Chromium, without a display.
#include <gtest/gtest.h>

#include <dunefield/report/page.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

constexpr char browser[] =
    "chromium --headless --no-sandbox --disable-gpu --disable-quic --no-first-run "
    "--disable-background-networking --disable-component-update --disable-sync "
    "--enable-logging=stderr ";

class ReportInBrowser : public testing::Test {
 protected:
  void SetUp() override {
    if (shell("chromium --version").exit_code != 0)
      GTEST_SKIP() << "chromium is not installed (scripts/install-dependencies)";
    Page page("A report");
    page.section("Numbers");
    page.table("drag", {{"variant", "drag N"}, {"b <i>", "10 ± 1"}, {"a", "9 ± 1"}}, {"a note"});
    page.picture(Image(16, 16), "nothing much");
    page.folded("more", "text");
    write_text(folder_ / "r.html", page.html());
  }
  ProcessResult opened(const std::string& how) {
    return shell(browser + how + " --user-data-dir=" + (folder_ / "user").string() + " file://" +
                 (folder_ / "r.html").string());
  }
  TemporaryFolder folder_;
};

TEST_F(ReportInBrowser, OpensWithItsOwnStyleAndScriptAndNothingElse) {
  const ProcessResult r = opened("--dump-dom");
  ASSERT_EQ(r.exit_code, 0) << r.err;
  EXPECT_NE(r.out.find("<caption>drag</caption>"), std::string::npos) << r.out;
  EXPECT_NE(r.out.find("b &lt;i&gt;"), std::string::npos) << "text, no markup";
  EXPECT_EQ(r.err.find("Content Security Policy"), std::string::npos) << r.err;
  EXPECT_EQ(r.err.find("CONSOLE"), std::string::npos) << "no error of the page's script";
}

TEST_F(ReportInBrowser, PrintsAndFitsANarrowScreen) {
  const std::string pdf = (folder_ / "r.pdf").string(), png = (folder_ / "r.png").string();
  ASSERT_EQ(opened("--print-to-pdf=" + pdf).exit_code, 0);
  EXPECT_EQ(read_text(pdf).substr(0, 5), "%PDF-");
  ASSERT_EQ(opened("--window-size=360,640 --screenshot=" + png).exit_code, 0);
  EXPECT_GT(std::filesystem::file_size(png), 2000u);
}

}  // namespace
}  // namespace dunefield::test
