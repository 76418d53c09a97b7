#include <dunefield/mesh/planar/small_cells.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr double too_small = 0.4;  // of the square's area

/// A corner and the one after it.
using Side = std::pair<int, int>;

/// The corners of a closed line in order; empty if the sides make several, or none.
std::vector<int> chained(const std::vector<Side>& sides) {
  std::map<int, int> next;
  for (const Side& s : sides)
    if (!next.insert(s).second) return {};
  std::vector<int> line = {sides.front().first};
  for (int p = next[line[0]]; p != line[0]; p = next[p]) {
    line.push_back(p);
    if (line.size() > sides.size() || !next.contains(p)) return {};
  }
  return line.size() == sides.size() ? line : std::vector<int>{};
}

class Merger {
 public:
  Merger(PlanarCells& cells, const std::function<double(const Vec3&)>& size)
      : m_(cells), size_(size), edges_of_(at(cells.cells)), into_(at(cells.cells)) {
    for (std::size_t e = 0; e < m_.edges.size(); ++e) {
      edges_of_[at(m_.edges[e].left)].push_back(static_cast<int>(e));
      if (m_.edges[e].right >= 0) edges_of_[at(m_.edges[e].right)].push_back(static_cast<int>(e));
    }
    for (std::size_t c = 0; c < into_.size(); ++c) into_[c] = static_cast<int>(c);
  }

  int run() {
    int merged = 0;
    constexpr int most = 8;  // what a cell was merged into may need another one as well
    for (int c = m_.layer_cells; c < m_.cells; ++c)
      for (int k = 0; k < most && mend(root(c)); ++k) ++merged;
    for (int c = m_.layer_cells; c < m_.cells; ++c)
      if (into_[at(c)] == c && lies_aslant(c) && merge(c, m_.layer_cells, false)) ++merged;
    renumber();
    return merged;
  }

 private:
  int root(int c) const {
    while (into_[at(c)] != c) c = into_[at(c)];
    return c;
  }
  int other_side(int edge, int cell) const {
    const PlanarEdge& e = m_.edges[at(edge)];
    const int left = root(e.left), right = e.right < 0 ? e.right : root(e.right);
    return left == cell ? right : left;
  }
  std::vector<Side> sides(int cell) const {
    std::vector<Side> all;
    for (const int i : edges_of_[at(cell)]) {
      const PlanarEdge& e = m_.edges[at(i)];
      all.push_back(root(e.left) == cell ? Side{e.from, e.to} : Side{e.to, e.from});
    }
    return all;
  }

  bool is_small(int cell) const {
    double twice = 0, along = 0;
    Vec3 middle;
    for (const auto& [a, b] : sides(cell)) {
      const Vec3 &p = m_.points[at(a)], &q = m_.points[at(b)];
      twice += turn({}, p, q);
      middle += (p + q) * (0.5 * norm(q - p)), along += norm(q - p);
    }
    const double edge = size_(middle / along);
    return 0.5 * twice < too_small * edge * edge;
  }

  Vec3 centre(int cell) const {
    const std::vector<Side> all = sides(cell);
    double area = 0;
    Vec3 moment;
    const Vec3 about = m_.points[at(all[0].first)];
    for (const auto& [a, b] : all) {
      const Vec3 p = m_.points[at(a)] - about, q = m_.points[at(b)] - about;
      area += turn({}, p, q), moment += (p + q) * (turn({}, p, q) / 3);
    }
    return about + moment / area;
  }

  /// True for a cell that all of its border is seen from its centre, by a margin.
  bool seen_from_centre(int cell) const {
    const std::vector<Side> all = sides(cell);
    const Vec3 middle = centre(cell);
    constexpr double margin = 0.02;  // distance of the centre from a side, over the cell's size
    const double edge = size_(middle);
    return std::all_of(all.begin(), all.end(), [&](const Side& s) {
      const Vec3 &p = m_.points[at(s.first)], &q = m_.points[at(s.second)];
      return turn(p, q, middle) > margin * edge * norm(q - p);
    });
  }

  /// True for a cell that a neighbour's centre lies beside rather than behind their common side.
  bool lies_aslant(int cell) const {
    constexpr double flattest = 0.2;  // cosine: 78 degrees
    const Vec3 own = centre(cell);
    return std::any_of(edges_of_[at(cell)].begin(), edges_of_[at(cell)].end(), [&](int i) {
      const int other = other_side(i, cell);
      if (other < 0) return false;
      const PlanarEdge& e = m_.edges[at(i)];
      const Vec3 normal = unit(to_the_right(m_.points[at(e.to)] - m_.points[at(e.from)])),
                 line = unit(centre(other) - own);
      return std::abs(dot(normal, line)) < flattest;
    });
  }

  /// A folded cell goes with any neighbour, a small one only with whom it makes a good cell.
  bool mend(int cell) {
    if (cell < m_.layer_cells) return false;
    if (!seen_from_centre(cell))
      return merge(cell, m_.layer_cells, false) || merge(cell, 0, false) ||
             merge(cell, m_.layer_cells, true);
    return is_small(cell) && merge(cell, m_.layer_cells, false);
  }

  /// Into the neighbour of the longest common side with which it makes one closed line.
  /// @param first_cell those before it take nothing
  /// @param any_shape also one that is folded
  bool merge(int cell, int first_cell, bool any_shape) {
    std::map<int, double> common;
    for (const int e : edges_of_[at(cell)])
      if (const int other = other_side(e, cell); other >= first_cell)
        common[other] +=
            norm(m_.points[at(m_.edges[at(e)].to)] - m_.points[at(m_.edges[at(e)].from)]);
    std::vector<std::pair<double, int>> by_length;
    for (const auto& [other, length] : common) by_length.push_back({-length, other});
    std::sort(by_length.begin(), by_length.end());
    return std::any_of(by_length.begin(), by_length.end(), [&](const auto& candidate) {
      return merge_into(candidate.second, cell, any_shape);
    });
  }

  bool merge_into(int other, int cell, bool any_shape) {
    std::vector<int> kept;
    for (const int e : edges_of_[at(cell)])
      if (other_side(e, cell) != other) kept.push_back(e);
    for (const int e : edges_of_[at(other)])
      if (other_side(e, other) != cell) kept.push_back(e);
    const std::vector<int> before = std::exchange(edges_of_[at(other)], kept);
    into_[at(cell)] = other;
    if (!chained(sides(other)).empty() && (any_shape || seen_from_centre(other))) {
      edges_of_[at(cell)].clear();
      return true;
    }
    into_[at(cell)] = cell, edges_of_[at(other)] = before;
    return false;
  }

  void renumber() {
    std::vector<int> number(into_.size(), -1);
    int count = 0;
    for (std::size_t c = 0; c < into_.size(); ++c)
      if (into_[c] == static_cast<int>(c)) number[c] = count++;
    std::vector<PlanarEdge> kept;
    for (PlanarEdge e : m_.edges) {
      e.left = number[at(root(e.left))];
      if (e.right >= 0) e.right = number[at(root(e.right))];
      if (e.left != e.right) kept.push_back(e);
    }
    m_.edges = std::move(kept), m_.cells = count;
  }

  PlanarCells& m_;
  const std::function<double(const Vec3&)>& size_;
  std::vector<std::vector<int>> edges_of_;
  std::vector<int> into_;
};

}  // namespace

int merge_small_cells(PlanarCells& cells, const std::function<double(const Vec3&)>& size) {
  return Merger(cells, size).run();
}

std::vector<std::vector<int>> corners_of_cells(const PlanarCells& m) {
  std::vector<std::vector<Side>> sides(at(m.cells));
  for (const PlanarEdge& e : m.edges) {
    sides[at(e.left)].push_back({e.from, e.to});
    if (e.right >= 0) sides[at(e.right)].push_back({e.to, e.from});
  }
  std::vector<std::vector<int>> corners;
  for (const auto& own : sides) {
    corners.push_back(own.empty() ? std::vector<int>{} : chained(own));
    if (!corners.back().empty()) continue;
    const Vec3 p = own.empty() ? Vec3{} : m.points[at(own[0].first)];
    throw MeshError(fmt::format("a cell at x = {:.4f}, z = {:.4f} m is not closed", p.x, p.z),
                    "mesh", "use a slightly different surface size");
  }
  return corners;
}

}  // namespace dunefield
