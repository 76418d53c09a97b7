// Tables of words, as the console and the report show them.
#include <gtest/gtest.h>

#include <string_view>

#include <dunefield/campaign/result_tables.hpp>

namespace dunefield::test {
namespace {

Figures figures(const std::string& variant, double cd, const std::string& recipe = "scout") {
  Figures f;
  f.run.variant = variant, f.run.speed = 25, f.run.recipe = recipe;
  f.run.blunt = 1;
  f.status = RunStatus::fluctuating;
  f.reference = {25, 1.2, 2, 3};
  f.cd.mean = cd, f.cd.half_interval = 0.0005;
  f.drag = cd * f.reference.dynamic_pressure() * 2;
  f.parts = {{"body", 0.8 * cd, -0.1}, {"wheels", 0.2 * cd, 0.05}};
  return f;
}

TEST(ResultTables, NumbersHaveAsManyDecimalsAsTheirIntervals) {
  EXPECT_EQ(to_two_digits(11287.6, 225.3), "11288 ± 225");
  EXPECT_EQ(to_two_digits(0.30551, 0.0061), "0.3055 ± 0.0061");
  EXPECT_EQ(to_two_digits(0.02, 0.011, "+"), "+0.020 ± 0.011");
  EXPECT_EQ(to_two_digits(3, 0), "3.000 ± 0.000");
  EXPECT_EQ(to_two_digits(0, 0), "0.000 ± 0.000");
}

TEST(ResultTables, CompareAndRank) {
  const std::vector<Figures> runs = {figures("base", 0.30), figures("tail", 0.25),
                                     figures("rack", 0.33)};
  const auto tables = comparison_tables(runs, "base", {});
  ASSERT_EQ(tables.size(), 2u);
  EXPECT_EQ(tables[0].title, "90 km/h");
  EXPECT_EQ(tables[0].rows.size(), 4u);
  EXPECT_EQ(tables[1].rows[1][0], "tail");
  EXPECT_EQ(tables[1].rows[1].back(), "less drag");
  EXPECT_EQ(tables[1].rows[2].back(), "more drag");
  ASSERT_EQ(tables[1].notes.size(), 1u);
  EXPECT_EQ(tables[1].notes[0], "In order of drag: tail, base, rack");
}

TEST(ResultTables, SayWhatWouldTellApartWhatIsWithinTheNoise) {
  const auto tables =
      comparison_tables({figures("base", 0.30), figures("rack", 0.302)}, "base", {});
  EXPECT_EQ(tables[1].rows[1].back(), "within the noise");
  ASSERT_EQ(tables[1].notes.size(), 1u);
  const auto interval = [](const std::string& text) {
    return std::stod(text.substr(text.find("± ") + std::string_view("± ").size()));
  };
  const std::string &told = tables[1].notes[0], &now = tables[1].rows[1][2];
  EXPECT_NE(told.find("[certainty] lattices = 4"), std::string::npos) << told;
  EXPECT_NEAR(interval(told) / interval(now), 0.5, 0.1) << told << ", now " << now;
}

TEST(ResultTables, PartsAddToTheWhole) {
  const ResultTable t = by_part_table(figures("tail", 0.25), figures("base", 0.30));
  ASSERT_EQ(t.rows.size(), 3u);
  EXPECT_EQ(t.rows[1][0], "body") << "the largest first";
  EXPECT_EQ(t.rows[1][1], "-0.0400");
  EXPECT_EQ(t.rows[2][1], "-0.0100");
  EXPECT_EQ(t.rows[1][2], "-13.3") << "per cent of all drag";
}

TEST(ResultTables, DerivedOnesAreThereWhereThereIsSomethingToTell) {
  Campaign c;
  c.baseline = "base";
  const std::vector<Figures> runs = {figures("base", 0.30), figures("tail", 0.25)};
  EXPECT_EQ(derived_tables(runs, c).size(), 1u) << "what is built in";
  c.claims = {{"brochure", "base", "CD", 0.29, 0.01, 0}};
  Round round;
  round.name = "round", round.legs = {{25, 10'000}}, round.fuel = "diesel", round.efficiency = 0.3;
  c.rounds = {round};
  const auto tables = derived_tables(runs, c);
  ASSERT_EQ(tables.size(), 3u);
  EXPECT_EQ(tables[1].title, "Claims");
  EXPECT_EQ(tables[1].rows[1].back(), "agrees");
  EXPECT_EQ(tables[2].rows[0][3], "l diesel per 100 km");
  EXPECT_TRUE(derived_tables({}, c).empty());
}

}  // namespace
}  // namespace dunefield::test
