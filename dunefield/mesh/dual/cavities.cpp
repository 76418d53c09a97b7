#include <dunefield/mesh/dual/cavities.hpp>

#include <algorithm>
#include <atomic>
#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

/// How much wider than its openings a cavity is at least: what is not is a corner of the outside.
constexpr double prominence = 2;

/// Neighbours of each vertex over edges that air goes along.
struct OpenEdges {
  std::vector<int> start, neighbour;

  explicit OpenEdges(const DualGrid& grid) : start(grid.vertices.size() + 1, 0) {
    const auto is_open = [&](std::size_t e) {
      return !grid.thin_wall[e] && !grid.solid[at(grid.edges[e].from)] &&
             !grid.solid[at(grid.edges[e].to)];
    };
    for (std::size_t e = 0; e < grid.edges.size(); ++e)
      if (is_open(e)) ++start[at(grid.edges[e].from) + 1], ++start[at(grid.edges[e].to) + 1];
    std::partial_sum(start.begin(), start.end(), start.begin());
    neighbour.resize(at(start.back()));
    std::vector<int> next(start.begin(), start.end() - 1);
    for (std::size_t e = 0; e < grid.edges.size(); ++e) {
      if (!is_open(e)) continue;
      const int a = grid.edges[e].from, b = grid.edges[e].to;
      neighbour[at(next[at(a)]++)] = b, neighbour[at(next[at(b)]++)] = a;
    }
  }
};

class Basins {
 public:
  Basins(const DualGrid& grid, const std::vector<double>& clearance, double clear)
      : grid_(grid), clearance_(clearance), clear_(clear), open_(grid) {
    parent_.resize(clearance.size());
    std::iota(parent_.begin(), parent_.end(), 0);
    kind_.assign(clearance.size(), Kind::crevice);
    flooded_.assign(clearance.size(), 0);
    pass_.assign(clearance.size(), -1);
  }

  /// Floods the landscape from its clearest places to its narrowest.
  void flood() {
    std::vector<int> narrow;
    for (int v = 0; v < static_cast<int>(clearance_.size()); ++v) {
      if (grid_.solid[at(v)]) continue;
      if (clearance_[at(v)] >= clear_)
        flood_clear(v);
      else
        narrow.push_back(v);
    }
    for (std::size_t v = 0; v < flooded_.size(); ++v)
      if (flooded_[v]) kind_[at(root(static_cast<int>(v)))] = Kind::cavity;
    for (std::size_t v = 0; v < flooded_.size(); ++v)
      if (flooded_[v] && grid_.vertices[v].on_boundary(0, false))
        kind_[at(root(static_cast<int>(v)))] = Kind::outside;
    if (!any_cavity()) return;
    std::stable_sort(narrow.begin(), narrow.end(),
                     [&](int a, int b) { return clearance_[at(a)] > clearance_[at(b)]; });
    for (const int v : narrow) flood_narrow(v);
  }

  /// The root of the vertex's cavity, or -1; air that is sealed off is none.
  int cavity_of(int v) {
    if (!flooded_[at(v)]) return -1;
    const int r = root(v);
    return kind_[at(r)] == Kind::cavity && pass_[at(r)] >= 0 ? r : -1;
  }
  /// The clearest vertex between a cavity and the outside.
  int pass_of(int cavity) const { return pass_[at(cavity)]; }

 private:
  enum class Kind : char { crevice, cavity, outside };

  bool any_cavity() {
    for (std::size_t v = 0; v < flooded_.size(); ++v)
      if (flooded_[v] && kind_[at(root(static_cast<int>(v)))] == Kind::cavity) return true;
    return false;
  }

  int root(int v) {
    while (parent_[at(v)] != v) v = parent_[at(v)] = parent_[at(parent_[at(v)])];
    return v;
  }
  void unite(int a, int b) {
    a = root(a), b = root(b);
    if (a == b) return;
    if (a > b) std::swap(a, b);
    parent_[at(b)] = a;
    kind_[at(a)] = std::max(kind_[at(a)], kind_[at(b)]);
    const int pa = pass_[at(a)], pb = pass_[at(b)];
    if (pb >= 0 && (pa < 0 || clearance_[at(pb)] > clearance_[at(pa)])) pass_[at(a)] = pb;
  }
  template <class Visit>
  void for_flooded_neighbours(int v, const Visit& visit) {
    for (int k = open_.start[at(v)]; k < open_.start[at(v) + 1]; ++k)
      if (flooded_[at(open_.neighbour[at(k)])]) visit(open_.neighbour[at(k)]);
  }
  void flood_clear(int v) {
    flooded_[at(v)] = 1;
    for_flooded_neighbours(v, [&](int n) { unite(v, n); });
  }
  /// Joins the outside where it can, otherwise a cavity; between both it is a pass.
  void flood_narrow(int v) {
    Kind best = Kind::crevice;
    for_flooded_neighbours(v, [&](int n) { best = std::max(best, kind_[at(root(n))]); });
    flooded_[at(v)] = 1;
    for_flooded_neighbours(v, [&](int n) {
      const int r = root(n);
      if (best == Kind::outside && kind_[at(r)] == Kind::cavity) {
        if (pass_[at(r)] < 0) pass_[at(r)] = v;
      } else {
        unite(v, n);
      }
    });
  }

  const DualGrid& grid_;
  const std::vector<double>& clearance_;
  double clear_;
  OpenEdges open_;
  std::vector<int> parent_, pass_;
  std::vector<Kind> kind_;
  std::vector<char> flooded_;
};

/// Distance of each vertex in the air to the next wall, as far as half the opening.
std::vector<double> clearances(const Octree& octree, const SolidField& solid, double most,
                               const DualGrid& grid) {
  const Box box = solid.bounds();
  std::vector<double> clearance(grid.vertices.size(), most);
  parallel_for(
      clearance.size(),
      [&](std::size_t i) {
        if (grid.solid[i]) return;
        const Vec3 p = sample_point(octree, grid.vertices[i]);
        if (box.contains(p, most)) clearance[i] = solid.clearance(p, most);
      },
      256);
  return clearance;
}

/// Per root: whether its basin is enough wider than the pass to the outside.
std::vector<char> wide_basins(const Octree& octree, const SolidField& solid,
                              const std::vector<double>& clearance, const DualGrid& grid,
                              Basins& basins) {
  std::vector<std::pair<int, int>> members;  // a vertex and its root
  for (int v = 0; v < static_cast<int>(clearance.size()); ++v)
    if (const int r = basins.cavity_of(v); r >= 0) members.push_back({v, r});
  std::vector<char> wide(clearance.size(), 0);
  parallel_for(
      members.size(),
      [&](std::size_t i) {
        const auto [v, r] = members[i];
        const double wanted = prominence * clearance[at(basins.pass_of(r))];
        if (!solid.surface_near(sample_point(octree, grid.vertices[at(v)]), wanted))
          std::atomic_ref(wide[at(r)]).store(1, std::memory_order_relaxed);
      },
      256);
  return wide;
}

}  // namespace

std::vector<Cavity> close_cavities(const Octree& octree, const SolidField& solid, double opening,
                                   DualGrid& grid) {
  const std::vector<double> clearance = clearances(octree, solid, 0.5 * opening, grid);
  Basins basins(grid, clearance, 0.5 * opening);
  basins.flood();
  const std::vector<char> wide = wide_basins(octree, solid, clearance, grid, basins);
  std::vector<int> number(grid.vertices.size(), -1);
  std::vector<Cavity> cavities;
  for (int v = 0; v < static_cast<int>(grid.vertices.size()); ++v) {
    const int r = basins.cavity_of(v);
    if (r < 0 || !wide[at(r)]) continue;
    if (number[at(r)] < 0) {
      number[at(r)] = static_cast<int>(cavities.size());
      cavities.emplace_back();
      const int pass = basins.pass_of(r);
      cavities.back().opening = 2 * clearance[at(pass)];
      cavities.back().opening_place = octree.position(grid.vertices[at(pass)].place);
    }
    const double volume = volume_at(octree, grid.vertices[at(v)]);
    Cavity& c = cavities[at(number[at(r)])];
    c.place += octree.position(grid.vertices[at(v)].place) * volume, c.volume += volume;
    grid.solid[at(v)] = 1;
  }
  for (Cavity& c : cavities) c.place = c.place / c.volume;
  std::stable_sort(cavities.begin(), cavities.end(),
                   [](const Cavity& a, const Cavity& b) { return a.volume > b.volume; });
  return cavities;
}

}  // namespace dunefield
