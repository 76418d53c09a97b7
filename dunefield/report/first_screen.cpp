#include <dunefield/report/first_screen.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/campaign/result_tables.hpp>
#include <dunefield/report/drawing.hpp>

namespace dunefield {
namespace {

// All lengths in the units of the picture, which are pixels at its natural size.
constexpr double width = 560, left = 216, right = 24, top = 12, row_height = 24, group_gap = 12,
                 foot = 44;

/// A round step with about `count` of them over a span.
double round_step(double span, int count) {
  const double raw = span / count, power = std::pow(10, std::floor(std::log10(raw)));
  for (const double m : {1.0, 2.0, 5.0})
    if (raw <= m * power) return m * power;
  return 10 * power;
}

struct Range {
  double least = 0, most = 0;
  double at(double v) const { return left + (width - left - right) * (v - least) / (most - least); }
};

Range range_of(const std::vector<VariantVerdict>& verdicts) {
  Range r{-1, 1};
  for (const VariantVerdict& v : verdicts)
    for (const ConditionVerdict& c : v.at) {
      r.least = std::min(r.least, c.drag.value - c.drag.uncertainty);
      r.most = std::max(r.most, c.drag.value + c.drag.uncertainty);
    }
  const double margin = 0.04 * (r.most - r.least);
  return {r.least - margin, r.most + margin};
}

class DifferenceChart {
 public:
  DifferenceChart(const std::vector<VariantVerdict>& verdicts, const DisplayUnits& units)
      : verdicts_(verdicts), units_(units), range_(range_of(verdicts)) {}

  std::string text() const {
    double height = top + foot;
    for (const VariantVerdict& v : verdicts_)
      height += static_cast<double>(v.at.size()) * row_height + (v.at.empty() ? 0 : group_gap);
    if (height <= top + foot) return "";
    Drawing drawing(width, height, "differences",
                    "Change of drag of each variant at each condition, with intervals");
    axis(drawing, height);
    double y = top;
    for (const VariantVerdict& v : verdicts_) {
      if (v.at.empty()) continue;
      for (const ConditionVerdict& c : v.at)
        row(drawing, v, c, y, &c == &v.at.front()), y += row_height;
      y += group_gap;
    }
    return drawing.text();
  }

 private:
  void axis(Drawing& drawing, double height) const {
    const double bottom = height - foot + 4, step = round_step(range_.most - range_.least, 6);
    for (double v = std::ceil(range_.least / step) * step; v <= range_.most; v += step) {
      const bool zero = std::abs(v) < 1e-9 * step;
      drawing.line(range_.at(v), top - 6, range_.at(v), bottom, zero ? "zero" : "grid");
      drawing.words(range_.at(v), bottom + 15, zero ? "0" : fmt::format("{:+.4g}", v), "mark");
    }
    drawing.words(0.5 * (left + width - right), height - 6, "change of drag, %", "mark");
  }

  void row(Drawing& drawing, const VariantVerdict& v, const ConditionVerdict& c, double y,
           bool first) const {
    const double middle = y + 0.5 * row_height, base = middle + 4;
    constexpr std::size_t longest = 22;
    if (first)
      drawing.words(0, base,
                    v.variant.size() > longest ? v.variant.substr(0, longest - 1) + "…" : v.variant,
                    "name");
    drawing.words(left - 12, base,
                  first && v.variant.size() > 16 && v.at.size() == 1
                      ? ""
                      : conditions_in_words(c.speed, {}, units_),
                  "condition");
    const char* kind = c.verdict == Verdict::better  ? "better"
                       : c.verdict == Verdict::worse ? "worse"
                                                     : "open";
    drawing.line(range_.at(c.drag.value - c.drag.uncertainty), middle,
                 range_.at(c.drag.value + c.drag.uncertainty), middle, kind);
    drawing.dot(range_.at(c.drag.value), middle, kind,
                fmt::format("{} at {}: {:+.1f} ± {:.1f} %", v.variant,
                            conditions_in_words(c.speed, c.settings, units_), c.drag.value,
                            c.drag.uncertainty));
  }

  const std::vector<VariantVerdict>& verdicts_;
  const DisplayUnits& units_;
  const Range range_;
};

}  // namespace

std::string difference_chart(const std::vector<VariantVerdict>& verdicts,
                             const DisplayUnits& units) {
  return DifferenceChart(verdicts, units).text();
}

std::vector<std::vector<std::string>> key_numbers(const std::vector<Figures>& runs,
                                                  const Wants& wants, const DisplayUnits& units) {
  const bool lifts = wants.more_downforce || wants.less_downforce;
  constexpr double kilowatt = 1e3, km_per_100 = 1e5, joule_per_kwh = 3.6e6;
  std::vector<std::vector<std::string>> rows = {
      {"variant", fmt::format("CD*A {}", units.area.name), "power kW", "kWh/100 km"}};
  if (lifts) rows[0].insert(rows[0].end(), {"CLF", "CLR"});
  for (const Figures& f : runs) {
    const double share = f.cd.half_interval / std::abs(f.cd.mean),
                 area = f.cd.mean * f.reference.frontal_area / units.area.size;
    rows.push_back(
        {f.run.variant, to_two_digits(area, share * area),
         to_two_digits(f.drag * f.run.speed / kilowatt, share * f.drag * f.run.speed / kilowatt),
         to_two_digits(f.drag * km_per_100 / joule_per_kwh,
                       share * f.drag * km_per_100 / joule_per_kwh)});
    if (lifts)
      rows.back().insert(rows.back().end(), {with_interval(f.clf, 3), with_interval(f.clr, 3)});
  }
  return rows;
}

}  // namespace dunefield
