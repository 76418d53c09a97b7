#include <dunefield/geometry/open_edges.hpp>

#include <algorithm>
#include <cmath>
#include <map>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/edges.hpp>
#include <dunefield/geometry/query/box_tree.hpp>

namespace dunefield {
namespace {

constexpr int most_rounds = 8;  // each splits one edge of a triangle at most

struct OpenEdge {
  int from, to, triangle;  ///< points in the triangle's order
};

std::vector<OpenEdge> open_edges(const Surface& s) {
  std::vector<OpenEdge> open;
  EdgeTable(s).for_each([&](int low, int high, std::span<const EdgeTable::Use> uses) {
    if (uses.size() != 1) return;
    const bool backward = uses[0].backward();
    open.push_back({backward ? high : low, backward ? low : high, uses[0].triangle()});
  });
  return open;
}

std::vector<int> points_of(const std::vector<OpenEdge>& edges) {
  std::vector<int> points;
  for (const OpenEdge& e : edges) points.push_back(e.from), points.push_back(e.to);
  std::sort(points.begin(), points.end());
  points.erase(std::unique(points.begin(), points.end()), points.end());
  return points;
}

/// Each point joins the first one near enough; triangles left with fewer than three go.
void join_points(Surface& s, const std::vector<int>& points, double distance, JoinedEdges& done) {
  using Cell = std::array<std::int64_t, 3>;
  std::map<Cell, std::vector<int>> grid;
  std::vector<int> number(s.points.size());
  for (std::size_t i = 0; i < number.size(); ++i) number[i] = static_cast<int>(i);
  const auto nearby = [&](const Cell& cell, const Vec3& p) {
    for (std::int64_t n = 0; n < 27; ++n) {
      const auto it =
          grid.find({cell[0] + n % 3 - 1, cell[1] + n / 3 % 3 - 1, cell[2] + n / 9 - 1});
      if (it == grid.end()) continue;
      for (const int j : it->second)
        if (norm(s.points[at(j)] - p) <= distance) return j;
    }
    return -1;
  };
  for (const int i : points) {
    const Vec3& p = s.points[at(i)];
    Cell cell;
    for (int k = 0; k < 3; ++k)
      cell[at(k)] = static_cast<std::int64_t>(std::floor(p[k] / distance));
    const int first = nearby(cell, p);
    if (first < 0) {
      grid[cell].push_back(i);
      continue;
    }
    number[at(i)] = first;
    if (done.points++ + done.splits == 0) done.place = p;
  }
  if (done.points == 0) return;
  std::size_t kept = 0;
  for (std::size_t t = 0; t < s.size(); ++t) {
    std::array<int, 3> c = s.triangles[t];
    for (int& p : c) p = number[at(p)];
    if (c[0] == c[1] || c[1] == c[2] || c[2] == c[0]) continue;
    s.triangles[kept] = c, s.part_of[kept++] = s.part_of[t];
  }
  s.triangles.resize(kept), s.part_of.resize(kept);
}

/// Points that lie on an open edge, by their place along it.
std::vector<std::pair<double, int>> points_on(const Surface& s, const OpenEdge& e,
                                              const std::vector<int>& points, const BoxTree& tree,
                                              double distance) {
  const Vec3 &a = s.points[at(e.from)], way = s.points[at(e.to)] - a;
  const double length = norm(way);
  Box box;
  box.include(a), box.include(a + way);
  std::vector<std::pair<double, int>> found;
  tree.overlapping(SmallBox(box), [&](int i) {
    const int p = points[at(i)];
    const auto& corners = s.triangles[at(e.triangle)];
    if (std::find(corners.begin(), corners.end(), p) != corners.end()) return;
    const double along = dot(s.points[at(p)] - a, way) / std::max(length, 1e-300);
    if (along > distance && along < length - distance &&
        norm(s.points[at(p)] - a - way * (along / length)) <= distance)
      found.push_back({along, p});
  });
  std::sort(found.begin(), found.end());
  return found;
}

/// @return whether any edge was split
bool split_edges(Surface& s, double distance, JoinedEdges& done) {
  const std::vector<OpenEdge> open = open_edges(s);
  const std::vector<int> points = points_of(open);
  std::vector<SmallBox> boxes;
  const Vec3 around{distance, distance, distance};
  for (const int p : points)
    boxes.emplace_back(Box{s.points[at(p)] - around, s.points[at(p)] + around});
  const BoxTree tree(boxes);
  std::vector<char> split(s.size(), 0);
  bool any = false;
  for (const OpenEdge& e : open) {
    if (split[at(e.triangle)]) continue;
    const auto on = points_on(s, e, points, tree, distance);
    if (on.empty()) continue;
    if (done.points + done.splits == 0) done.place = s.points[at(on.front().second)];
    any = true, split[at(e.triangle)] = 1, done.splits += on.size();
    int tip = -1;
    for (const int c : s.triangles[at(e.triangle)])
      if (c != e.from && c != e.to) tip = c;
    int from = e.from;
    for (const auto& [along, p] : on) {
      s.triangles.push_back({from, p, tip}), s.part_of.push_back(s.part_of[at(e.triangle)]);
      from = p;
    }
    s.triangles[at(e.triangle)] = {from, e.to, tip};
  }
  return any;
}

}  // namespace

JoinedEdges join_open_edges(Surface& s, double distance) {
  JoinedEdges done;
  const std::vector<OpenEdge> open = open_edges(s);
  if (open.empty() || !(distance > 0)) return done;
  join_points(s, points_of(open), distance, done);
  for (int round = 0; round < most_rounds && split_edges(s, distance, done); ++round) continue;
  if (done.points + done.splits > 0) drop_unused_points(s);
  return done;
}

}  // namespace dunefield
