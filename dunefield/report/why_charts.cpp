#include <dunefield/report/why_charts.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/report/drawing.hpp>

namespace dunefield {
namespace {

using Points = std::vector<std::array<double, 2>>;

constexpr double width = 560, margin = 24, top = 8, gap = 14, bars_height = 120, below = 40;

/// Upper and lower side of the vehicle, seen from its left, in columns of equal width.
struct SideView {
  double from = 1e300, to = -1e300, height = 0;  ///< m
  std::vector<double> low, high;

  explicit SideView(const VolumeMesh& m) {
    const auto for_edges = [&](const auto& visit) {
      for (const Boundary& b : m.boundaries)
        for (int f = b.first; b.kind == BoundaryKind::part && f < b.first + b.count; ++f) {
          const int first = m.face_start[at(f)], end = m.face_start[at(f) + 1];
          for (int k = first; k < end; ++k)
            visit(m.points[at(m.face_points[at(k)])],
                  m.points[at(m.face_points[at(k + 1 < end ? k + 1 : first)])]);
        }
    };
    for_edges([&](const Vec3& a, const Vec3&) {
      from = std::min(from, a.x), to = std::max(to, a.x), height = std::max(height, a.z);
    });
    if (from >= to) return;
    constexpr int columns = 240;
    low.assign(columns + 1, 1e300), high.assign(columns + 1, -1e300);
    for_edges([&](const Vec3& a, const Vec3& b) { take(a, b, columns / (to - from)); });
  }

 private:
  void take(Vec3 a, Vec3 b, double scale) {
    if (a.x > b.x) std::swap(a, b);
    const auto column = [&](double x) {
      return static_cast<std::size_t>(std::lround((x - from) * scale));
    };
    for (std::size_t i = column(a.x); i <= column(b.x); ++i) {
      const double x = from + static_cast<double>(i) / scale,
                   share = b.x > a.x ? std::clamp((x - a.x) / (b.x - a.x), 0.0, 1.0) : 1.0,
                   z = a.z + share * (b.z - a.z);
      low[i] = std::min(low[i], z), high[i] = std::max(high[i], z);
    }
  }
};

/// The closed outline, in pixels.
Points outline_of(const SideView& v, double scale, double left, double ground) {
  Points up, down;
  for (std::size_t i = 0; i < v.low.size(); ++i) {
    if (v.low[i] > v.high[i]) continue;
    const double step = (v.to - v.from) / static_cast<double>(v.low.size() - 1),
                 x = left + scale * (static_cast<double>(i) * step);
    up.push_back({x, ground - scale * v.high[i]});
    down.push_back({x, ground - scale * v.low[i]});
  }
  up.insert(up.end(), down.rbegin(), down.rend());
  return up;
}

const char* kind_of(double change) { return change < 0 ? "bar better" : "bar worse"; }

std::string in_words(double percent) {
  return std::abs(percent) < 0.05 ? "0.0" : fmt::format("{:+.1f}", percent);
}

/// Zero and the largest changes about it.
struct Scale {
  double least = 0, most = 0;
  explicit Scale(const std::vector<double>& values) {
    for (const double v : values) least = std::min(least, v), most = std::max(most, v);
    if (most - least <= 0) most = 1;
  }
};

}  // namespace

std::string stretch_chart(const Explanation& e, const Record& run, const Record& baseline) {
  const SideView view(*run.mesh);
  if (view.low.empty() || e.stretches.empty()) return "";
  double from = 1e300, to = -1e300;
  std::vector<double> percent;
  const double whole = 0.01 * std::abs(baseline.figures().cd.mean);
  for (const Stretch& s : e.stretches) {
    from = std::min(from, s.from), to = std::max(to, s.to);
    percent.push_back(s.cd / whole);
  }
  const double scale = (width - 2 * margin) / (to - from), car = scale * view.height,
               height = top + car + gap + bars_height + below;
  const Scale range(percent);
  const double upward = bars_height / (range.most - range.least),
               zero = top + car + gap + upward * range.most;
  const auto place = [&](double x) { return margin + scale * (x - from); };
  Drawing d(width, height, "differences",
            "Change of drag along the vehicle, under its side view: the table underneath has the "
            "numbers");
  d.polygon(outline_of(view, scale, place(view.from), top + car), "car");
  d.line(margin, top + car, width - margin, top + car, "grid");
  constexpr double room = 14;  // px, above or below a bar for its number
  for (std::size_t i = 0; i < e.stretches.size(); ++i) {
    const Stretch& s = e.stretches[i];
    const double x = place(s.from) + 3, w = place(s.to) - place(s.from) - 6,
                 h = std::max(1.0, (upward * std::abs(percent[i])) * (1 - room / bars_height));
    d.box(x, percent[i] > 0 ? zero - h : zero, w, h, kind_of(percent[i]),
          fmt::format("{:+.2f} to {:+.2f} m: {:+.1f} %", s.from, s.to, percent[i]));
    d.words(x + 0.5 * w, percent[i] > 0 ? zero - h - 4 : zero + h + 12, in_words(percent[i]),
            "mark");
  }
  d.line(margin, zero, width - margin, zero, "zero");
  d.words(0.5 * width, height - 8,
          "change of drag by tenth of the length, last states, % of the baseline's", "mark");
  return d.text();
}

std::string part_chart(const Explanation& e, const Record& baseline) {
  constexpr std::size_t most_parts = 12;
  constexpr double left = 190, row = 26;
  const std::size_t count = std::min(most_parts, e.parts.size());
  if (count == 0) return "";
  const double whole = 0.01 * std::abs(baseline.figures().cd.mean);
  std::vector<double> percent;
  for (std::size_t i = 0; i < count; ++i) percent.push_back(e.parts[i].cd / whole);
  const Scale range(percent);
  constexpr double number = 46;  // px, room for a number at either end
  const double across = (width - margin - left - 2 * number) / (range.most - range.least),
               zero = left + number - across * range.least,
               height = top + row * static_cast<double>(count) + below;
  Drawing d(width, height, "differences",
            "Change of drag by part: the table underneath has the numbers");
  for (std::size_t i = 0; i < count; ++i) {
    const double y = top + row * static_cast<double>(i), w = across * std::abs(percent[i]);
    constexpr std::size_t longest = 24;
    const std::string& name = e.parts[i].part;
    d.words(0, y + 17, name.size() > longest ? name.substr(0, longest - 1) + "…" : name, "");
    d.box(percent[i] > 0 ? zero : zero - w, y + 5, std::max(1.0, w), row - 10, kind_of(percent[i]),
          fmt::format("{}: {:+.1f} %", name, percent[i]));
    d.words(percent[i] > 0 ? zero + w + 22 : zero - w - 22, y + 17, in_words(percent[i]), "mark");
  }
  d.line(zero, top, zero, height - below + 4, "zero");
  d.words(0.5 * (left + width), height - 8, "change of drag by part, means, % of the baseline's",
          "mark");
  return d.text();
}

}  // namespace dunefield
