// Ranges and palettes that quantities have unless told otherwise.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/look/picture.hpp>

namespace dunefield {
namespace {

/// A number a little larger, of one digit and a half.
double rounded_up(double v) {
  if (!(v > 0) || !std::isfinite(v)) return 1;
  const double power = std::pow(10, std::floor(std::log10(v)));
  for (const double step : {1.0, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0})
    if (step * power >= v * 0.999) return step * power;
  return 10 * power;
}

/// The value that this share of what is shown lies under. @param v sorted
double percentile(const std::vector<ShownValue>& v, double share) {
  double all = 0, below = 0;
  for (const ShownValue& s : v) all += s.weight;
  for (const ShownValue& s : v)
    if ((below += s.weight) >= share * all) return s.value;
  return v.back().value;
}

/// Where most of what is shown lies. Of values that are far beyond most others, as vorticity beside
/// walls, the range would be theirs, and all else of one colour. @param v sorted
std::pair<double, double> bulk_of(const std::vector<ShownValue>& v) {
  constexpr double furthest = 2;  // times what nine tenths lie within
  double low = percentile(v, 0.02), high = percentile(v, 0.98);
  const double usual_low = percentile(v, 0.1), usual_high = percentile(v, 0.9);
  if (usual_high > 0) high = std::min(high, furthest * usual_high);
  if (usual_low < 0) low = std::max(low, furthest * usual_low);
  return {low, high};
}

void sort(std::vector<ShownValue>& v) {
  std::erase_if(v, [](const ShownValue& s) { return !std::isfinite(s.value); });
  std::sort(v.begin(), v.end(),
            [](const ShownValue& a, const ShownValue& b) { return a.value < b.value; });
}

/// The scale's range leaves the extremes out; its title says how much of the picture they are.
ColourScale with_share_beyond(ColourScale s, const std::vector<ShownValue>& values) {
  constexpr double worth_saying = 0.005;
  double all = 0, beyond = 0;
  for (const auto& [value, weight] : values)
    all += weight, beyond += value < s.least || value > s.most ? weight : 0;
  if (beyond > worth_saying * all) s.title += fmt::format(" ({:.0f} % beyond)", 100 * beyond / all);
  return s;
}

}  // namespace

void add_shown(const Sheet& sheet, std::vector<ShownValue>& values) {
  if (sheet.values.empty()) return;
  std::vector<double> area(sheet.points.size(), 0);
  for (const auto& t : sheet.triangles) {
    const Vec3 &a = sheet.points[at(t[0])], &b = sheet.points[at(t[1])],
               &c = sheet.points[at(t[2])];
    const double third = norm(cross(b - a, c - a)) / 6;
    for (const int corner : t) area[at(corner)] += third;
  }
  for (std::size_t i = 0; i < area.size(); ++i)
    if (area[i] > 0) values.push_back({sheet.values[i], area[i]});
}

void add_shown(const Bundle& bundle, std::vector<ShownValue>& values) {
  constexpr double hair = 1e-3;  // m, of lines that are as thin as reads well
  const double radius = bundle.radius > 0 ? bundle.radius : hair;
  for (const Strand& s : bundle.strands)
    for (std::size_t i = 0; i < s.values.size(); ++i) {
      const double before = i > 0 ? norm(s.points[i] - s.points[i - 1]) : 0,
                   after = i + 1 < s.points.size() ? norm(s.points[i + 1] - s.points[i]) : 0;
      values.push_back({s.values[i], radius * (before + after)});
    }
}

ColourScale scale_for(const FlowView& view, const std::string& quantity,
                      std::vector<ShownValue> values) {
  const Record& r = view.record();
  const Quantity q = quantity_named(r, quantity);
  ColourScale s;
  s.title = q.name + (q.unit.empty() ? "" : ", " + q.unit);
  const double dynamic = r.reference.dynamic_pressure(), speed = r.reference.speed;
  const auto fixed = [&](Palette p, double least, double most) {
    s.palette = p, s.least = least, s.most = most;
    return s;
  };
  if (view.is_change()) {
    s.title = "change of " + s.title;
    for (ShownValue& v : values) v.value = std::abs(v.value);
    sort(values);
    // Most of the picture has not changed: the range is that of what has.
    const double most = values.empty() ? 1 : rounded_up(percentile(values, 0.98));
    return fixed(Palette::balance, -most, most);
  }
  if (quantity == "Cp") return fixed(Palette::balance, -1, 1);
  if (quantity == "pressure")
    return fixed(Palette::balance, -rounded_up(dynamic), rounded_up(dynamic));
  if (quantity == "total Cp") return fixed(Palette::dune, -0.2, 1);
  if (quantity == "speed ratio") return fixed(Palette::dune, 0, 1.4);
  if (quantity == "speed") return fixed(Palette::dune, 0, rounded_up(1.3 * speed));
  sort(values);
  if (values.empty()) return s;
  const auto fitted = [&](Palette p, double least, double most) {
    return with_share_beyond(fixed(p, least, most), values);
  };
  const auto [low, high] = bulk_of(values);
  constexpr double both = 0.15;  // of the range: less on one side of zero is none
  if (low < 0 && high > 0 && std::min(-low, high) > both * (high - low)) {
    const double most = rounded_up(std::max(-low, high));
    return fitted(Palette::balance, -most, most);
  }
  if (low >= 0 && low < 0.5 * high) return fitted(Palette::dune, 0, rounded_up(high));
  return fitted(Palette::dune, low, high > low ? high : low + 1);
}

}  // namespace dunefield
