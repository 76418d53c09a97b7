#include <dunefield/look/levels.hpp>

#include <cmath>
#include <cstdint>
#include <unordered_map>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/section.hpp>

namespace dunefield {
namespace {

/// Pieces of one level's line, each from one edge of the triangles to another, linked to strands.
class Links {
 public:
  int end(int a, int b, const Vec3& place, double value) {
    const auto [it, fresh] = number_.try_emplace(edge_key(a, b), static_cast<int>(places_.size()));
    if (fresh) places_.push_back(place), values_.push_back(value), others_.push_back({-1, -1});
    return it->second;
  }
  void join(int a, int b) {
    for (const auto& [from, to] : {std::pair{a, b}, {b, a}})
      for (int& slot : others_[at(from)])
        if (slot < 0) {
          slot = to;
          break;
        }
  }
  void into(Bundle& out) {
    std::vector<char> done(places_.size(), 0);
    const auto follow = [&](int start) {
      Strand& s = out.strands.emplace_back();
      for (int here = start, before = -1; here >= 0 && !done[at(here)];) {
        done[at(here)] = 1;
        s.points.push_back(places_[at(here)]), s.values.push_back(values_[at(here)]);
        const auto& next = others_[at(here)];
        const int on = next[0] != before ? next[0] : next[1];
        before = here, here = on;
        if (here == start && s.points.size() > 2)
          s.points.push_back(places_[at(start)]), s.values.push_back(values_[at(start)]);
      }
      if (s.points.size() < 2) out.strands.pop_back();
    };
    for (std::size_t i = 0; i < places_.size(); ++i)  // open ones from an end
      if (others_[i][1] < 0 && !done[i]) follow(static_cast<int>(i));
    for (std::size_t i = 0; i < places_.size(); ++i)
      if (!done[i]) follow(static_cast<int>(i));
  }

 private:
  std::unordered_map<std::uint64_t, int> number_;
  std::vector<Vec3> places_;
  std::vector<double> values_;
  std::vector<std::array<int, 2>> others_;
};

}  // namespace

namespace {

/// Lines where `height` is zero, with values along them.
void zero_lines(const Sheet& s, const std::vector<double>& height, const std::vector<double>& value,
                Bundle& out) {
  Links links;
  for (const auto& t : s.triangles) {
    int ends[2], count = 0;
    for (int k = 0; k < 3 && count < 2; ++k) {
      const int a = t[at(k)], b = t[at((k + 1) % 3)];
      const double ha = height[at(a)], hb = height[at(b)];
      if ((ha > 0) == (hb > 0)) continue;
      const double share = ha / (ha - hb);
      ends[count++] =
          links.end(a, b, s.points[at(a)] * (1 - share) + s.points[at(b)] * share,
                    value.empty() ? 0 : value[at(a)] * (1 - share) + value[at(b)] * share);
    }
    if (count == 2) links.join(ends[0], ends[1]);
  }
  links.into(out);
}

}  // namespace

Bundle level_lines(const Sheet& s, const std::vector<double>& levels) {
  Bundle out;
  out.name = "levels of " + s.quantity, out.lit = false;
  std::vector<double> height(s.points.size());
  for (const double level : levels) {
    for (std::size_t i = 0; i < height.size(); ++i) height[i] = s.values[i] - level;
    const std::size_t first = out.strands.size();
    zero_lines(s, height, {}, out);
    for (std::size_t i = first; i < out.strands.size(); ++i)
      std::fill(out.strands[i].values.begin(), out.strands[i].values.end(), level);
  }
  return out;
}

Bundle sheet_section(const Sheet& s, const Vec3& point, const Vec3& normal) {
  Bundle out;
  out.name = s.name, out.quantity = s.quantity;
  std::vector<double> height(s.points.size());
  for (std::size_t i = 0; i < height.size(); ++i) height[i] = dot(s.points[i] - point, normal);
  zero_lines(s, height, s.values, out);
  return out;
}

std::vector<Mark> level_labels(const Bundle& lines, double least) {
  std::vector<Mark> marks;
  for (const Strand& s : lines.strands) {
    double length = 0;
    for (std::size_t i = 1; i < s.points.size(); ++i) length += norm(s.points[i] - s.points[i - 1]);
    if (length < least) continue;
    const int count = std::max(1, static_cast<int>(length / (6 * least)));
    double way = 0;
    int next = 0;
    for (std::size_t i = 1; i < s.points.size() && next < count; ++i) {
      way += norm(s.points[i] - s.points[i - 1]);
      if (way < length * (next + 0.5) / count) continue;
      const Vec3& p = s.points[i];
      const bool crowded = std::any_of(marks.begin(), marks.end(), [&](const Mark& m) {
        return norm(m.place - p) < 0.5 * least;
      });
      const double v = std::abs(s.values[0]) < 1e-12 ? 0 : s.values[0];
      if (!crowded) marks.push_back({p, fmt::format("{:.4g}", v), false});
      ++next;
    }
  }
  return marks;
}

}  // namespace dunefield
