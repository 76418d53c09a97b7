// Ranges and palettes that quantities have unless told otherwise.
#include <algorithm>
#include <cmath>

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

double percentile(std::vector<double>& v, double share) {
  const auto k = static_cast<std::ptrdiff_t>(share * static_cast<double>(v.size() - 1));
  std::nth_element(v.begin(), v.begin() + k, v.end());
  return v[static_cast<std::size_t>(k)];
}

}  // namespace

ColourScale scale_for(const FlowView& view, const std::string& quantity,
                      std::vector<double> values) {
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
    for (double& v : values) v = std::abs(v);
    std::erase_if(values, [](double v) { return !std::isfinite(v); });
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
  std::erase_if(values, [](double v) { return !std::isfinite(v); });
  if (values.empty()) return s;
  const double low = percentile(values, 0.02), high = percentile(values, 0.98);
  constexpr double both = 0.15;  // of the range: less on one side of zero is none
  if (low < 0 && high > 0 && std::min(-low, high) > both * (high - low)) {
    const double most = rounded_up(std::max(-low, high));
    return fixed(Palette::balance, -most, most);
  }
  if (low >= 0 && low < 0.5 * high) return fixed(Palette::dune, 0, rounded_up(high));
  return fixed(Palette::dune, low, high > low ? high : low + 1);
}

}  // namespace dunefield
