#include <dunefield/look/chart.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/look/canvas.hpp>

namespace dunefield {
namespace {

constexpr int width = 1280, height = 800;
constexpr Colour paper{1, 1, 1}, ink{0.13, 0.15, 0.18}, faint{0.45, 0.48, 0.52},
    grid{0.9, 0.91, 0.92}, shade{0.965, 0.96, 0.94}, band{0.87, 0.9, 0.94};
constexpr Colour colours[4] = {
    {0.05, 0.32, 0.46}, {0.80, 0.36, 0.12}, {0.25, 0.52, 0.28}, {0.5, 0.3, 0.55}};

/// Where a panel's values stand on the canvas.
struct Frame {
  double left, top, right, bottom;
  double x0, x1, y0, y1;
  bool logarithmic;
  double px(double x) const { return left + (x - x0) / (x1 - x0) * (right - left); }
  double py(double y) const {
    const double v = logarithmic ? std::log10(std::max(y, 1e-300)) : y;
    return std::clamp(bottom - (v - y0) / (y1 - y0) * (bottom - top), top, bottom);
  }
};

/// Least and most of what counts, widened a little.
std::pair<double, double> range_of(const ChartPanel& p, std::size_t count) {
  double least = 1e300, most = -1e300;
  const auto first =
      std::min(count - 1, static_cast<std::size_t>(p.ranged_from * static_cast<double>(count)));
  for (const ChartLine& line : p.lines)
    for (std::size_t i = first; i < count; ++i) {
      const double v = line.y[i];
      if (!std::isfinite(v) || (p.logarithmic && !(v > 0))) continue;
      const double shown = p.logarithmic ? std::log10(v) : v;
      least = std::min(least, shown), most = std::max(most, shown);
    }
  if (least > most) return {0, 1};
  const double more =
      std::max(0.08 * (most - least), p.logarithmic ? 0.1 : 1e-3 * std::max(std::abs(most), 1e-9));
  return {least - more, most + more};
}

void draw_grid(Canvas& canvas, const Frame& f, bool x_labels) {
  for (const double m : round_marks(f.y0, f.y1, f.logarithmic ? 5 : 6)) {
    if (f.logarithmic && m != std::round(m)) continue;
    const double y = f.bottom - (m - f.y0) / (f.y1 - f.y0) * (f.bottom - f.top);
    canvas.line(f.left, y, f.right, y, 1, grid);
    canvas.text(f.left - 8, y - 9,
                f.logarithmic ? fmt::format("1e{:.0f}", m) : fmt::format("{:.4g}", m), 12, faint,
                Canvas::Anchor::right);
  }
  for (const double m : round_marks(f.x0, f.x1, 10)) {
    canvas.line(f.px(m), f.top, f.px(m), f.bottom, 1, grid);
    if (x_labels)
      canvas.text(f.px(m), f.bottom + 6, fmt::format("{:.4g}", m), 12, faint,
                  Canvas::Anchor::centre);
  }
}

void draw_panel(Canvas& canvas, const Chart& chart, const ChartPanel& p, Frame f, bool last) {
  if (chart.shaded_from < f.x1) {
    const double x = f.px(std::max(chart.shaded_from, f.x0));
    canvas.fill_polygon({x, f.top, f.right, f.top, f.right, f.bottom, x, f.bottom}, shade);
  }
  if (p.half_interval >= 0) {
    const double x = chart.shaded_from < f.x1 ? f.px(std::max(chart.shaded_from, f.x0)) : f.left,
                 high = f.py(p.mean + p.half_interval), low = f.py(p.mean - p.half_interval);
    canvas.fill_polygon({x, high - 1, f.right, high - 1, f.right, low + 1, x, low + 1}, band);
  }
  draw_grid(canvas, f, last);
  for (std::size_t k = 0; k < p.lines.size(); ++k)
    for (std::size_t i = 1; i < chart.x.size(); ++i)
      if (std::isfinite(p.lines[k].y[i - 1]) && std::isfinite(p.lines[k].y[i]))
        canvas.line(f.px(chart.x[i - 1]), f.py(p.lines[k].y[i - 1]), f.px(chart.x[i]),
                    f.py(p.lines[k].y[i]), 1.8, colours[k % 4]);
  for (const double y : {f.top, f.bottom}) canvas.line(f.left, y, f.right, y, 1, faint);
  canvas.text(f.left, f.top - 24, p.title, 14, ink, Canvas::Anchor::left, true);
  double x = f.right;
  for (std::size_t k = p.lines.size(); k-- > 0;) {
    if (p.lines[k].name.empty()) continue;
    canvas.text(x, f.top - 22, p.lines[k].name, 13, colours[k % 4], Canvas::Anchor::right, true);
    x -= 16 + 8.5 * static_cast<double>(p.lines[k].name.size());
  }
}

}  // namespace

void draw_chart(const std::filesystem::path& file, const Chart& chart) {
  if (chart.x.empty() || chart.panels.empty())
    throw InputError("there is nothing to draw", file.string(), "run at least one iteration");
  for (const ChartPanel& p : chart.panels)
    for (const ChartLine& line : p.lines)
      if (line.y.size() != chart.x.size())
        throw InputError("the line '" + line.name + "' and the axis differ in length",
                         file.string(), "give one value for each");
  Canvas canvas(width, height, paper);
  canvas.text(32, 18, chart.title, 20, ink, Canvas::Anchor::left, true);
  constexpr double top = 92, bottom = height - 76.0, between = 46, left = 96, right = width - 40.0;
  const double count = static_cast<double>(chart.panels.size()),
               each = (bottom - top - between * (count - 1)) / count;
  const double x0 = chart.x.front(), x1 = chart.x.back() > x0 ? chart.x.back() : x0 + 1;
  for (std::size_t i = 0; i < chart.panels.size(); ++i) {
    const ChartPanel& p = chart.panels[i];
    const auto [least, most] = range_of(p, chart.x.size());
    const double y = top + static_cast<double>(i) * (each + between);
    draw_panel(canvas, chart, p, {left, y, right, y + each, x0, x1, least, most, p.logarithmic},
               i + 1 == chart.panels.size());
  }
  canvas.text(0.5 * (left + right), bottom + 26, chart.x_title, 13, ink, Canvas::Anchor::centre);
  canvas.text(32, height - 30, chart.footer, 13, faint);
  canvas.write_png(file);
}

}  // namespace dunefield
