// The report: one file that holds what it needs, and in which data is never markup.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/record/json.hpp>
#include <dunefield/report/page.hpp>
#include <dunefield/report/report.hpp>
#include <tests/report/ball_campaign.hpp>

namespace dunefield::test {
namespace {

std::size_t count(const std::string& text, const std::string& what) {
  std::size_t n = 0;
  for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + 1)) ++n;
  return n;
}

TEST(Page, DataIsTextWhateverItSays) {
  const std::string hostile = "<script>alert(1)</script>\" onload=\"x\xff&amp;";
  Page page(hostile);
  page.section(hostile), page.paragraph(hostile), page.list({hostile});
  page.table(hostile, {{hostile, "b"}, {hostile, hostile}}, {hostile});
  page.picture(Image(8, 8), hostile);
  page.folded(hostile, hostile);
  const std::string html = page.html();
  EXPECT_EQ(count(html, "<script>"), 1u) << "ours";
  EXPECT_EQ(count(html, "alt=\"&lt;script"), 1u);
  EXPECT_GE(count(html, "&quot; onload="), 1u) << "quotes cannot end an attribute";
  EXPECT_EQ(count(html, "\xff"), 0u);
  EXPECT_EQ(html.rfind("<!DOCTYPE html>", 0), 0u);
  for (const char* needed : {"Content-Security-Policy", "default-src 'none'", "script-src 'sha256-",
                             "lang=\"en\"", "data:image/png;base64,", "scope=\"row\"", "alt=\""})
    EXPECT_EQ(count(html, needed), 1u) << needed;
  EXPECT_EQ(count(html, "<th"), 4u) << "thead, and headings of two columns and a row";
}

using Report = BallCampaign;

TEST_F(Report, SaysWhoWinsWhyAndHowToDoItAgain) {
  EXPECT_THROW(report_page(setup(), folder_ / "runs"), InputError) << "nothing is run yet";
  CampaignWatcher silent;
  ASSERT_EQ(run_campaign(setup(), folder_ / "runs", {2, nullptr}, silent).runs.size(), 4u);
  const std::string html = report_page(setup(), folder_ / "runs", {"9.9"});
  for (const char* told : {"Ball &amp; fin", "fin at 36 km/h", "no verdict (not settled)", "Why",
                           "Where 'fin' differs from 'as it is'", "ball &lt;b&gt;", "round: 9 km",
                           "Dunefield 9.9", "[[round.leg]]"})
    EXPECT_NE(html.find(told), std::string::npos) << told;
  EXPECT_LT(html.find("Warning: no wheel turns"), html.find("Where 'fin' differs"))
      << "with the verdict";
  EXPECT_GE(count(html, "data:image/png"), 6u);
  EXPECT_GE(count(html, "data:image/svg+xml"), 4u);
  EXPECT_EQ(count(html, "src=\"http"), 0u);
  EXPECT_LT(html.size(), 20'000'000u);
  // What the mesh changes of the shape is told, of variants alike once.
  for (const auto& run : std::filesystem::directory_iterator(folder_ / "runs")) {
    if (!std::filesystem::exists(run.path() / "record.json")) continue;
    Json j = Json::parse(read_text(run.path() / "record.json"));
    j["mesh_findings"] = {{{"level", "warning"}, {"text", "a gap is closed"}},
                          {{"level", "note"}, {"text", "a dent is filled"}}};
    write_text(run.path() / "record.json", j.dump());
  }
  const std::string told = report_page(setup(), folder_ / "runs");
  EXPECT_EQ(count(told, "Warning, mesh of as it is: a gap is closed"), 1u);
  EXPECT_EQ(count(told, "a gap is closed"), 1u);
  EXPECT_EQ(count(told, "a dent is filled"), 0u);
  // After a change of the file its earlier results are not its own any more.
  const std::string as_run = read_text(folder_ / "c.toml");
  std::string changed = as_run;
  changed.replace(changed.find("80 mm"), 5, "90 mm");
  write(changed);
  EXPECT_THROW(report_page(setup(), folder_ / "runs"), InputError) << "none is as described";
  write(as_run);
  // What is missing is said.
  std::filesystem::remove_all(folder_ / "runs/fin_72-kmh");
  write_text(folder_ / "runs/fin_36-kmh/record.json", "{");
  const std::string less = report_page(setup(), folder_ / "runs");
  EXPECT_NE(less.find("fin at 72 km/h: not run"), std::string::npos);
  EXPECT_NE(less.find("damaged"), std::string::npos);
}

}  // namespace
}  // namespace dunefield::test
