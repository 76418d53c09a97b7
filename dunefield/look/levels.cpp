#include <dunefield/look/levels.hpp>

#include <cmath>
#include <cstdint>
#include <unordered_map>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

std::uint64_t edge_key(int a, int b) {
  return static_cast<std::uint64_t>(std::min(a, b)) << 32 |
         static_cast<std::uint64_t>(std::max(a, b));
}

/// Pieces of one level's line, each from one edge of the triangles to another, linked to strands.
class Links {
 public:
  int end(int a, int b, const Vec3& place) {
    const auto [it, fresh] = number_.try_emplace(edge_key(a, b), static_cast<int>(places_.size()));
    if (fresh) places_.push_back(place), others_.push_back({-1, -1});
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
  void into(Bundle& out, double level) {
    std::vector<char> done(places_.size(), 0);
    const auto follow = [&](int start) {
      Strand& s = out.strands.emplace_back();
      for (int here = start, before = -1; here >= 0 && !done[at(here)];) {
        done[at(here)] = 1;
        s.points.push_back(places_[at(here)]), s.values.push_back(level);
        const auto& next = others_[at(here)];
        const int on = next[0] != before ? next[0] : next[1];
        before = here, here = on;
        if (here == start) s.points.push_back(places_[at(start)]), s.values.push_back(level);
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
  std::vector<std::array<int, 2>> others_;
};

}  // namespace

Bundle level_lines(const Sheet& s, const std::vector<double>& levels) {
  Bundle out;
  out.name = "levels of " + s.quantity, out.lit = false;
  for (const double level : levels) {
    Links links;
    for (const auto& t : s.triangles) {
      int ends[2], count = 0;
      for (int k = 0; k < 3 && count < 2; ++k) {
        const int a = t[at(k)], b = t[at((k + 1) % 3)];
        const double va = s.values[at(a)] - level, vb = s.values[at(b)] - level;
        if ((va > 0) == (vb > 0)) continue;
        const double share = va / (va - vb);
        ends[count++] = links.end(a, b, s.points[at(a)] * (1 - share) + s.points[at(b)] * share);
      }
      if (count == 2) links.join(ends[0], ends[1]);
    }
    links.into(out, level);
  }
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
