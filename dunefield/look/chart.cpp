#include <dunefield/look/chart.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/csv.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/look/canvas.hpp>

namespace dunefield {
namespace {

constexpr int width = 1280, height = 800;
constexpr Colour paper{0.985, 0.98, 0.965}, ink{0.16, 0.155, 0.145}, faint{0.50, 0.49, 0.47},
    grid{0.90, 0.895, 0.88}, shade{0.955, 0.945, 0.92}, band{0.86, 0.885, 0.90};
constexpr Colour colours[] = {{0.05, 0.32, 0.46}, {0.80, 0.36, 0.12}, {0.25, 0.52, 0.28},
                              {0.5, 0.3, 0.55},   {0.62, 0.50, 0.10}, {0.25, 0.25, 0.27}};
/// Lengths of strokes and gaps, pixels; none: through.
const std::vector<double> dashes[] = {{}, {9, 4}, {2, 3}, {12, 4, 2, 4}, {5, 2}, {16, 6}};
const Colour& colour_of(std::size_t k) { return colours[k % std::size(colours)]; }
const std::vector<double>& dash_of(std::size_t k) { return dashes[k % std::size(dashes)]; }
const std::vector<double>& x_of(const Chart& c, const ChartLine& l) {
  return l.x.empty() ? c.x : l.x;
}

/// Where a panel's values stand on the canvas.
struct Frame {
  double left, top, right, bottom;
  double x0, x1, y0, y1;
  bool logarithmic, downward;
  double px(double x) const { return left + (x - x0) / (x1 - x0) * (right - left); }
  double py(double y) const {
    const double v = logarithmic ? std::log10(std::max(y, 1e-300)) : y;
    const double share = (v - y0) / (y1 - y0);
    return std::clamp(bottom - (downward ? 1 - share : share) * (bottom - top), top, bottom);
  }
};

/// Least and most of what counts, widened a little.
std::pair<double, double> range_of(const Chart& chart, const ChartPanel& p) {
  double least = 1e300, most = -1e300;
  for (const ChartLine& line : p.lines) {
    const std::size_t count = line.y.size();
    if (count == 0) continue;
    const auto first =
        std::min(count - 1, static_cast<std::size_t>(p.ranged_from * static_cast<double>(count)));
    for (std::size_t i = first; i < count; ++i) {
      const double v = line.y[i], wide = line.half_interval.empty() ? 0 : line.half_interval[i];
      if (!std::isfinite(v) || (p.logarithmic && !(v > 0))) continue;
      for (const double end : {v - wide, v + wide}) {
        const double shown = p.logarithmic ? std::log10(std::max(end, 1e-300)) : end;
        least = std::min(least, shown), most = std::max(most, shown);
      }
    }
  }
  if (least > most) return {0, 1};
  if (!chart.x_names.empty()) least = std::min(least, 0.0), most = std::max(most, 0.0);
  const double more =
      std::max(0.08 * (most - least), p.logarithmic ? 0.1 : 1e-3 * std::max(std::abs(most), 1e-9));
  return {least - more, most + more};
}

std::pair<double, double> x_range(const Chart& chart) {
  if (!chart.x_names.empty()) return {-0.6, static_cast<double>(chart.x_names.size()) - 0.4};
  double least = 1e300, most = -1e300;
  const auto take = [&](const std::vector<double>& x) {
    for (const double v : x) least = std::min(least, v), most = std::max(most, v);
  };
  bool marked = false;
  for (const ChartPanel& p : chart.panels)
    for (const ChartLine& l : p.lines) take(x_of(chart, l)), marked = marked || l.marked;
  if (!(most > least)) return {least - 1, least + 1};
  const double more = marked ? 0.04 * (most - least) : 0;
  return {least - more, most + more};
}

void draw_grid(Canvas& canvas, const Frame& f, bool x_labels,
               const std::vector<std::string>& x_names) {
  for (const double m : round_marks(f.y0, f.y1, f.logarithmic ? 5 : 6)) {
    if (f.logarithmic && m != std::round(m)) continue;
    const double y = f.py(f.logarithmic ? std::pow(10, m) : m);
    canvas.line(f.left, y, f.right, y, 1, grid);
    canvas.text(f.left - 8, y - 9,
                f.logarithmic ? fmt::format("1e{:.0f}", m) : fmt::format("{:.4g}", m), 12, faint,
                Canvas::Anchor::right);
  }
  if (!x_names.empty()) {
    for (std::size_t i = 0; x_labels && i < x_names.size(); ++i)
      canvas.text(f.px(static_cast<double>(i)), f.bottom + 6,
                  x_names[i].size() > 16 ? x_names[i].substr(0, 15) + "…" : x_names[i], 12, faint,
                  Canvas::Anchor::centre);
    canvas.line(f.left, f.py(0), f.right, f.py(0), 1, faint);
    return;
  }
  for (const double m : round_marks(f.x0, f.x1, 10)) {
    canvas.line(f.px(m), f.top, f.px(m), f.bottom, 1, grid);
    if (x_labels)
      canvas.text(f.px(m), f.bottom + 6, fmt::format("{:.4g}", m), 12, faint,
                  Canvas::Anchor::centre);
  }
}

void draw_line(Canvas& canvas, const Frame& f, const std::vector<double>& x, const ChartLine& line,
               std::size_t number) {
  std::vector<double> run;
  const auto end = [&] {
    if (run.size() >= 4) canvas.polyline(run, 1.8, colour_of(number), dash_of(number));
    run.clear();
  };
  for (std::size_t i = 0; i < x.size(); ++i) {
    if (!std::isfinite(line.y[i])) {
      end();
      continue;
    }
    run.push_back(f.px(x[i])), run.push_back(f.py(line.y[i]));
    if (!line.half_interval.empty()) {
      const double px = f.px(x[i]), high = f.py(line.y[i] + line.half_interval[i]),
                   low = f.py(line.y[i] - line.half_interval[i]);
      canvas.line(px, low, px, high, 1.4, colour_of(number));
      for (const double y : {low, high}) canvas.line(px - 4, y, px + 4, y, 1.4, colour_of(number));
    }
    if (line.marked) canvas.ring(f.px(x[i]), f.py(line.y[i]), 3, colour_of(number));
  }
  end();
}

void draw_bars(Canvas& canvas, const Frame& f, const ChartLine& line, std::size_t number,
               std::size_t of) {
  const double wide = 0.8 / static_cast<double>(of);
  for (std::size_t i = 0; i < line.y.size(); ++i) {
    const double left = static_cast<double>(i) - 0.4 + wide * static_cast<double>(number),
                 x0 = f.px(left + 0.06 * wide), x1 = f.px(left + 0.94 * wide), zero = f.py(0),
                 y = f.py(line.y[i]);
    canvas.fill_polygon({x0, zero, x1, zero, x1, y, x0, y}, colour_of(number));
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
  draw_grid(canvas, f, last, chart.x_names);
  for (std::size_t k = 0; k < p.lines.size(); ++k) {
    if (chart.x_names.empty())
      draw_line(canvas, f, x_of(chart, p.lines[k]), p.lines[k], k);
    else
      draw_bars(canvas, f, p.lines[k], k, p.lines.size());
  }
  for (const double y : {f.top, f.bottom}) canvas.line(f.left, y, f.right, y, 1, faint);
  canvas.text(f.left, f.top - 24, p.title, 14, ink, Canvas::Anchor::left, true);
  double x = f.right;
  for (std::size_t k = p.lines.size(); k-- > 0;) {
    if (p.lines[k].name.empty()) continue;
    canvas.text(x, f.top - 22, p.lines[k].name, 13, colour_of(k), Canvas::Anchor::right, true);
    x -= canvas.text_width(p.lines[k].name, 13) * 1.12 + 8;
    canvas.polyline({x - 30, f.top - 13, x, f.top - 13}, 2, colour_of(k), dash_of(k));
    x -= 46;
  }
}

}  // namespace

namespace {

/// @throw InputError for one without lines, or with lines of another length than the axis
void check_chart(const Chart& chart, const std::string& where) {
  if (chart.panels.empty() ||
      std::all_of(chart.panels.begin(), chart.panels.end(), [](const ChartPanel& p) {
        return std::all_of(p.lines.begin(), p.lines.end(),
                           [](const auto& l) { return l.y.empty(); });
      }))
    throw InputError("there is nothing to draw", where, "run at least one iteration");
  for (const ChartPanel& p : chart.panels)
    for (const ChartLine& line : p.lines)
      if (line.y.size() !=
          (chart.x_names.empty() ? x_of(chart, line).size() : chart.x_names.size()))
        throw InputError("the line '" + line.name + "' and the axis differ in length", where,
                         "give one value for each");
}

void draw(Canvas& canvas, const Chart& chart) {
  canvas.text(32, 18, chart.title, 19, ink, Canvas::Anchor::left, true);
  constexpr double top = 92, bottom = height - 92.0, between = 46, left = 96, right = width - 40.0;
  const double count = static_cast<double>(chart.panels.size()),
               each = (bottom - top - between * (count - 1)) / count;
  const auto [x0, x1] = x_range(chart);
  for (std::size_t i = 0; i < chart.panels.size(); ++i) {
    const ChartPanel& p = chart.panels[i];
    const auto [least, most] = range_of(chart, p);
    const double y = top + static_cast<double>(i) * (each + between);
    draw_panel(canvas, chart, p,
               {left, y, right, y + each, x0, x1, least, most, p.logarithmic, p.downward},
               i + 1 == chart.panels.size());
  }
  canvas.text(0.5 * (left + right), bottom + 26, chart.x_title, 13, ink, Canvas::Anchor::centre);
  canvas.paragraph(32, height - 10, width - 64, chart.footer, 12, faint);
}

}  // namespace

void draw_chart(const std::filesystem::path& file, const Chart& chart) {
  if (file.extension() == ".svg") return write_text(file, chart_svg(chart));
  check_chart(chart, file.string());
  Canvas canvas(width, height, paper);
  draw(canvas, chart);
  canvas.write_png(file);
}

std::string chart_svg(const Chart& chart) {
  check_chart(chart, "chart");
  Canvas canvas = Canvas::of_lines(width, height, paper);
  draw(canvas, chart);
  return canvas.svg_text();
}

std::string chart_csv(const Chart& chart) {
  CsvTable table(
      {"panel", "line", chart.x_title.empty() ? "x" : chart.x_title, "value", "half interval"}, 7);
  for (const ChartPanel& p : chart.panels)
    for (const ChartLine& l : p.lines)
      for (std::size_t i = 0; i < l.y.size(); ++i) {
        const CsvCell x =
            chart.x_names.empty() ? CsvCell(x_of(chart, l)[i]) : CsvCell(chart.x_names[i]);
        table.add({p.title, l.name, x, l.y[i],
                   l.half_interval.empty() ? CsvCell() : CsvCell(l.half_interval[i])});
      }
  return table.text();
}

std::vector<std::vector<std::string>> chart_rows(const Chart& chart, std::size_t most) {
  std::vector<std::vector<std::string>> rows = {
      {chart.x_title.empty() ? "x" : chart.x_title, "line", "quantity", "value"}};
  for (const ChartPanel& p : chart.panels)
    for (const ChartLine& l : p.lines) {
      const std::size_t stride = 1 + (l.y.empty() ? 0 : (l.y.size() - 1) / most);
      for (std::size_t i = 0; i < l.y.size(); i += stride) {
        if (!std::isfinite(l.y[i])) continue;
        rows.push_back(
            {chart.x_names.empty() ? fmt::format("{:.4g}", x_of(chart, l)[i]) : chart.x_names[i],
             l.name, p.title,
             fmt::format("{:.4g}", l.y[i]) +
                 (l.half_interval.empty() ? "" : fmt::format(" ± {:.2g}", l.half_interval[i]))});
      }
    }
  return rows;
}

}  // namespace dunefield
