// Charts as PNG.
#include <gtest/gtest.h>

#include <cmath>

#include <dunefield/base/error.hpp>
#include <dunefield/look/chart.hpp>
#include <tests/look/png.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

Chart waves(int count) {
  Chart c{"Waves", "iteration", "made up", {}, {}, 30};
  ChartLine sine{"sine", {}}, fall{"fall", {}};
  for (int i = 1; i <= count; ++i)
    c.x.push_back(i), sine.y.push_back(std::sin(0.1 * i)), fall.y.push_back(std::exp(-0.05 * i));
  c.panels = {{"values", {sine, fall}, false, 0.1, 0.2, 0.05}, {"logarithm", {fall}, true}};
  return c;
}

TEST(Chart, DrawsItsLinesAndTheShadedWindow) {
  const TemporaryFolder folder;
  draw_chart(folder / "long.png", waves(300));
  const Png png(folder / "long.png");
  EXPECT_EQ(png.width(), 1280);
  const Colours lines(png);
  EXPECT_GT(lines.coloured + lines.dark, 3000) << "lines and letters";
  Chart plain = waves(300);
  plain.shaded_from = 1e300;
  draw_chart(folder / "plain.png", plain);
  const auto paper = [](const Png& p) {
    int count = 0;
    for (int y = 0; y < p.height(); ++y)
      for (int x = 0; x < p.width(); ++x) count += p.at(x, y) == p.at(2, 2);
    return count;
  };
  EXPECT_GT(paper(Png(folder / "plain.png")), paper(png) + 50'000) << "no shade";
  // A single point is no line, but has its axes.
  draw_chart(folder / "one.png", waves(1));
  EXPECT_GT(Colours(Png(folder / "one.png")).dark, 300);
}

TEST(Chart, HoldsWhatIsNotANumberOut) {
  const TemporaryFolder folder;
  Chart c = waves(50);
  c.panels[0].lines[0].y[20] = std::nan("");
  c.panels[1].lines[0].y[20] = -1;
  EXPECT_NO_THROW(draw_chart(folder / "c.png", c));
}

TEST(Chart, RefusesLinesOfAnotherLengthAndNothingAtAll) {
  const TemporaryFolder folder;
  Chart c = waves(50);
  c.panels[0].lines[0].y.pop_back();
  EXPECT_THROW(draw_chart(folder / "c.png", c), InputError);
  EXPECT_THROW(draw_chart(folder / "c.png", Chart{}), InputError);
}

}  // namespace
}  // namespace dunefield::test
