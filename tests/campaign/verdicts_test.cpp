// What a campaign concludes over its conditions.
#include <gtest/gtest.h>

#include <cmath>

#include <dunefield/campaign/verdicts.hpp>
#include <dunefield/report/first_screen.hpp>

namespace dunefield::test {
namespace {

/// A settled run whose history leaves CD open by 0.001.
Figures figures(const std::string& variant, double kmh, double cd) {
  Figures f;
  f.run.variant = variant, f.run.speed = kmh / 3.6, f.run.recipe = "scout";
  f.status = RunStatus::fluctuating;
  f.reference = {f.run.speed, 1.2, 4, 3};
  f.cd = {cd, cd, cd, 0.001};
  f.clf = f.clr = f.cl = {0, 0, 0, 0.001};
  f.drag = cd * f.reference.dynamic_pressure() * 4;
  return f;
}

std::vector<Figures> campaign() {
  std::vector<Figures> all;
  for (const double kmh : {60.0, 90.0, 120.0}) {
    all.push_back(figures("as it is", kmh, 0.3));
    all.push_back(figures("skirts", kmh, 0.2985));
    all.push_back(figures("tail", kmh, 0.25 + kmh * 1e-5));
  }
  return all;
}

TEST(Verdicts, TheLargestChangeComesFirstWithTheMeanOverSpeeds) {
  const auto found = verdicts(campaign(), "as it is", {});
  ASSERT_EQ(found.size(), 2u);
  EXPECT_EQ(found[0].variant, "tail");
  EXPECT_EQ(found[0].at.size(), 3u);
  EXPECT_NEAR(found[0].drag.value, 100 * (0.2509 / 0.3 - 1), 1e-9);
  EXPECT_EQ(found[0].verdict, Verdict::better);
  EXPECT_EQ(found[1].verdict, Verdict::within_noise);
  EXPECT_EQ(found[0].sentence.find("Tail: 16.4 ± "), 0u) << found[0].sentence;
}

TEST(Verdicts, OnlyHistoriesShrinkWithTheNumberOfSpeeds) {
  const auto found = verdicts(campaign(), "as it is", {});
  const double one = found[0].at[0].drag.uncertainty, all = found[0].drag.uncertainty,
               history = 100 * std::hypot(0.001, 0.001) / 0.3,
               mesh = std::sqrt(one * one - history * history);
  EXPECT_NEAR(all, std::sqrt(history * history / 3 + mesh * mesh), 1e-9);
  EXPECT_LT(all, one);
  EXPECT_GT(all, one / std::sqrt(3.0));
}

TEST(Verdicts, AreNoneWithoutABaselineOrSettledRuns) {
  EXPECT_TRUE(verdicts(campaign(), "another", {}).empty());
  auto runs = campaign();
  for (Figures& f : runs)
    if (f.run.variant == "tail") f.status = RunStatus::not_converged;
  const auto found = verdicts(runs, "as it is", {});
  EXPECT_EQ(found.back().variant, "tail");
  EXPECT_TRUE(found.back().at.empty());
  EXPECT_NE(found.back().sentence.find("no verdict"), std::string::npos);
}

TEST(Verdicts, SketchesHaveNoneAndConditionsWithoutOneAreCounted) {
  auto runs = campaign();
  for (Figures& f : runs) f.run.recipe = "sketch";
  EXPECT_NE(verdicts(runs, "as it is", {})[0].sentence.find("only a sketch"), std::string::npos);
  runs = campaign();
  runs.back().status = RunStatus::not_converged;  // the tail at 120 km/h
  const auto found = verdicts(runs, "as it is", {});
  EXPECT_EQ(found[0].at.size(), 2u);
  EXPECT_EQ(found[0].without, 1);
  EXPECT_NE(found[0].sentence.find("No verdict at 1 of 3 conditions"), std::string::npos);
  EXPECT_TRUE(verdicts({figures("as it is", 90, 0.3)}, "as it is", {}).empty());
}

TEST(FirstScreen, DrawsARowForEachConditionAndHidesNoMarkup) {
  auto runs = campaign();
  for (Figures& f : runs)
    if (f.run.variant == "tail") f.run.variant = "<tail> & \"fin\"";
  const std::string svg = difference_chart(verdicts(runs, "as it is", {}), {});
  std::size_t dots = 0;
  for (std::size_t i = svg.find("<circle"); i != svg.npos; i = svg.find("<circle", i + 1)) ++dots;
  EXPECT_EQ(dots, 6u);
  EXPECT_EQ(svg.find("<tail>"), svg.npos);
  EXPECT_EQ(difference_chart({}, {}), "");
  const auto rows = key_numbers(runs, {.more_downforce = true}, {});
  EXPECT_EQ(rows.size(), runs.size() + 1);
  EXPECT_EQ(rows[0].size(), rows[1].size());
}

}  // namespace
}  // namespace dunefield::test
