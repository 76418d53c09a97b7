// Charts as PNG.
#include <gtest/gtest.h>

#include <cmath>

#include <dunefield/base/error.hpp>
#include <dunefield/look/chart.hpp>
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

TEST(Chart, IsAPngOfEvenOnePoint) {
  const TemporaryFolder folder;
  for (const int count : {1, 2, 300}) {
    draw_chart(folder / "c.png", waves(count));
    EXPECT_EQ(read_text(folder / "c.png").substr(1, 3), "PNG");
  }
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
