// The search on functions whose best is known, with noise as runs have it.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include <dunefield/campaign/search.hpp>

namespace dunefield::test {
namespace {

/// A bowl with its least at 0.3, 0.4, 0.5 ... of each variable, from 0 to about 1.
double bowl(const std::vector<double>& x) {
  double sum = 0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double d = x[i] - (0.3 + 0.1 * static_cast<double>(i));
    sum += d * d * (1 + 0.5 * std::cos(3 * x[i]));
  }
  return sum / (0.49 * static_cast<double>(x.size()));
}

struct Found {
  std::vector<double> point;
  Search::Best best;
  std::size_t runs;
  std::string why;
};

/// @param limit of the first variable: at least that
Found search_bowl(std::size_t variables, double noise, int runs, unsigned seed, double limit = -1) {
  std::mt19937 random(seed);
  std::normal_distribution<double> error(0, noise);
  Search search(variables, limit >= 0 ? 1 : 0, runs);
  while (const auto x = search.next()) {
    Search::Tried t{*x, false, {bowl(*x) + error(random), noise}, {}};
    if (limit >= 0) t.limits.push_back({limit - (*x)[0] + error(random), noise});
    search.tell(t);
  }
  const Search::Best best = search.best().value();
  return {search.tried()[best.run].point, best, search.tried().size(), search.why()};
}

TEST(Search, FindsTheBestOfFiveVariablesThroughOnePerCentOfNoise) {
  for (const unsigned seed : {1u, 2u, 3u}) {
    const Found f = search_bowl(5, 0.01, 60, seed);
    EXPECT_LE(f.runs, 60u);
    EXPECT_LT(bowl(f.point), 0.05) << "of a range of one";
  }
}

TEST(Search, KeepsALimitThatTheBestWouldBreak) {
  const Found f = search_bowl(2, 0.005, 40, 4, 0.6);
  EXPECT_TRUE(f.best.within_limits);
  EXPECT_GT(f.point[0], 0.57);
  EXPECT_NEAR(f.point[1], 0.4, 0.15);
}

TEST(Search, TheBestIsNoRunWhoseOwnResultBreaksALimit) {
  // All others say that the limit is kept there, and that the goal is good; noise is large.
  Search search(1, 1, 20);
  for (int i = 0; i <= 8; ++i) {
    const double x = i / 8.0;
    search.tell({{x}, false, {(x - 0.5) * (x - 0.5), 0.01}, {{i == 4 ? 0.5 : -0.2, 0.05}}});
  }
  const Search::Best best = search.best().value();
  EXPECT_TRUE(best.within_limits);
  EXPECT_NE(best.run, 4u);
}

TEST(Search, WhereNothingShowsThroughTheNoiseTheBestIsNoSurerThanTheMeanOfAll) {
  std::mt19937 random(8);
  std::normal_distribution<double> error(0, 1);
  Search search(2, 0, 10);
  while (const auto x = search.next()) search.tell({*x, false, {error(random), 1.0}, {}});
  const Search::Best best = search.best().value();
  EXPECT_GT(best.deviation, 0.8 / std::sqrt(static_cast<double>(search.tried().size())));
}

TEST(Search, StopsWhenTheNextGainIsHiddenByTheNoiseAndSaysSo) {
  const Found f = search_bowl(2, 0.1, 200, 5);
  EXPECT_LT(f.runs, 100u);
  EXPECT_NE(f.why.find("noise"), std::string::npos) << f.why;
}

TEST(Search, GoesRoundWhatFailsAndAsksTheSameOfTheSameAnswers) {
  Search a(2, 0, 20), b(2, 0, 20);
  while (const auto x = a.next()) {
    const auto same = b.next();
    ASSERT_TRUE(same);
    EXPECT_EQ(*x, *same);
    const bool fails = (*x)[0] > 0.8;
    Search::Tried t{*x, fails, {bowl(*x), 0.001}, {}};
    a.tell(t), b.tell(t);
  }
  EXPECT_FALSE(b.next());
  EXPECT_LT(bowl(a.tried()[a.best()->run].point), 0.01);
}

TEST(Search, WithoutAnyResultThereIsNoBest) {
  Search s(1, 0, 3);
  while (const auto x = s.next()) s.tell({*x, true, {}, {}});
  EXPECT_FALSE(s.best());
  EXPECT_EQ(s.tried().size(), 3u);
}

}  // namespace
}  // namespace dunefield::test
