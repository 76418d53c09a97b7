// Bars that say why a variant differs: as long as the numbers, under the vehicle where they arise.
#include <gtest/gtest.h>

#include <sstream>

#include <pugixml.hpp>

#include <dunefield/report/drawing.hpp>
#include <dunefield/report/why_charts.hpp>
#include <tests/report/ball_campaign.hpp>

namespace dunefield::test {
namespace {

/// Both runs, made once.
struct BallAndFin : BallCampaign {
  BallAndFin() {
    std::string text = text_;
    write(text.replace(text.find(", \"20 m/s\""), 10, ""));
    CampaignWatcher silent;
    run_campaign(setup(), folder_ / "runs", {2, nullptr}, silent);
    base = Record::open(folder_ / "runs" / "as-it-is_36-kmh");
    run = Record::open(folder_ / "runs" / "fin_36-kmh");
  }
  void TestBody() override {}
  Record base, run;
};

class WhyCharts : public testing::Test {
 protected:
  static const BallAndFin& both() {
    static const BallAndFin made;
    return made;
  }
  static pugi::xml_document parsed(const std::string& svg) {
    pugi::xml_document doc;
    EXPECT_TRUE(doc.load_string(svg.c_str())) << svg;
    return doc;
  }
  static std::vector<pugi::xml_node> bars(const pugi::xml_document& doc) {
    std::vector<pugi::xml_node> out;
    for (const auto& b : doc.child("svg").children("rect")) out.push_back(b);
    return out;
  }
  const Record &base_ = both().base, &run_ = both().run;
};

TEST_F(WhyCharts, StretchesStandUnderTheSideViewThatTheyBelongTo) {
  const Explanation e = explain(run_, base_);
  const auto doc = parsed(stretch_chart(e, run_, base_));
  const auto all = bars(doc);
  ASSERT_EQ(all.size(), e.stretches.size());
  double left = 1e9, right = -1e9, high = 1e9, low = -1e9;
  std::istringstream points(doc.child("svg").child("polygon").attribute("points").value());
  for (double x = 0, y = 0; points >> x && points.get() && points >> y;)
    left = std::min(left, x), right = std::max(right, x), high = std::min(high, y),
    low = std::max(low, y);
  EXPECT_NEAR((right - left) / (low - high), 0.9 / 0.6, 0.05) << "ball and fin, 0.9 m by 0.6 m";
  const double zero = [&] {
    for (const auto& l : doc.child("svg").children("line"))
      if (std::string(l.attribute("class").value()) == "zero") return l.attribute("y1").as_double();
    return 0.0;
  }();
  for (std::size_t i = 0; i < all.size(); ++i) {
    const double x = all[i].attribute("x").as_double(), y = all[i].attribute("y").as_double();
    EXPECT_GE(x, left - 1);
    EXPECT_LE(x + all[i].attribute("width").as_double(), right + 1);
    if (e.stretches[i].cd < 0) {
      EXPECT_NEAR(y, zero, 0.1) << "less drag hangs";
    } else {
      EXPECT_LT(y, zero);
    }
  }
}

TEST_F(WhyCharts, PartsHaveBarsInProportion) {
  const Explanation e = explain(run_, base_);
  const auto doc = parsed(part_chart(e, base_));
  const auto all = bars(doc);
  ASSERT_EQ(all.size(), 2u) << "ball and fin";
  const double first = all[0].attribute("width").as_double(),
               second = all[1].attribute("width").as_double();
  EXPECT_NEAR(second / first, std::abs(e.parts[1].cd / e.parts[0].cd), 0.02 + 1 / first);
  EXPECT_NE(part_chart(e, base_).find("ball &lt;b&gt;"), std::string::npos) << "text, not markup";
  EXPECT_EQ(part_chart({}, base_), "");
  EXPECT_EQ(stretch_chart({}, run_, base_), "");
}

}  // namespace
}  // namespace dunefield::test
