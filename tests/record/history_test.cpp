// Histories on disk.
#include <gtest/gtest.h>

#include <cmath>

#include <dunefield/base/error.hpp>
#include <dunefield/record/history.hpp>

namespace dunefield::test {
namespace {

TEST(History, ComesBackToTheBit) {
  std::vector<HistoryRow> rows;
  for (int i = 1; i <= 20; ++i) {
    HistoryRow h{i, std::exp(-i / 3.0), 1e-9 / i, {}, 100 + std::sin(i)};
    h.c = {0.3 + 0.01 * std::sin(i), -0.05 * i / 7, 1e-17, -0.1 / 3, 0.2, 0.3};
    rows.push_back(h);
  }
  const std::string text = history_csv(rows);
  const auto back = history_from_csv(text, "h.csv");
  ASSERT_EQ(back.size(), rows.size());
  for (std::size_t i = 0; i < rows.size(); ++i) {
    EXPECT_EQ(back[i].iteration, rows[i].iteration);
    EXPECT_EQ(back[i].momentum_residual, rows[i].momentum_residual);
    EXPECT_EQ(back[i].c.cd, rows[i].c.cd);
    EXPECT_EQ(back[i].c.clf(), rows[i].c.clf());
    EXPECT_EQ(back[i].c.cym, rows[i].c.cym);
    EXPECT_EQ(back[i].momentum_drag, rows[i].momentum_drag);
  }
  EXPECT_EQ(history_csv(back), text);
}

TEST(History, OfAnotherFormIsRefused) {
  EXPECT_THROW(history_from_csv("iteration,CD\n1,0.3\n", "h.csv"), InputError);
  EXPECT_TRUE(history_from_csv("iteration\n", "h.csv").empty());
}

TEST(RunStatus, WordsAreReadBack) {
  for (const RunStatus s :
       {RunStatus::steady, RunStatus::fluctuating, RunStatus::not_converged, RunStatus::stopped})
    EXPECT_EQ(status_from(words(s), ""), s);
  EXPECT_THROW(status_from("finished", "record.json"), InputError);
}

}  // namespace
}  // namespace dunefield::test
