#include <dunefield/mesh/planar/planar_cells.hpp>

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/planar/small_cells.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

[[noreturn]] void fail(const Vec3& p) {
  throw MeshError(
      fmt::format("the cells at x = {:.4f}, z = {:.4f} m could not be closed", p.x, p.z), "mesh",
      "use a slightly different surface size");
}

/// A side of squares between two neighbouring nodes, or a face of a front, with what crosses it.
struct Strand {
  int from, to;
  std::vector<std::pair<double, int>> cuts;  ///< share of the way, point

  /// All points along it, in order.
  std::vector<int> stations() {
    std::sort(cuts.begin(), cuts.end());
    std::vector<int> all = {from};
    for (const auto& [share, point] : cuts) all.push_back(point);
    all.push_back(to);
    return all;
  }
};

class Builder {
 public:
  Builder(const std::vector<WallColumns>& walls, const Quadtree& tree)
      : walls_(walls), tree_(tree) {}

  PlanarCells run() {
    grow_layers();
    gather_strands();
    cut_strands();
    keep_air();
    trace_cells();
    out_.merged = merge_small_cells(out_, [&](const Vec3& p) {
      const int leaf = tree_.leaf_at(p);
      return leaf < 0 ? 0.0 : tree_.size(tree_.leaves()[at(leaf)]);
    });
    return std::move(out_);
  }

 private:
  int add_point(const Vec3& p) {
    out_.points.push_back(p);
    return static_cast<int>(out_.points.size()) - 1;
  }

  /// Points and cells of the columns; their sides on the fronts come later, cut.
  void grow_layers() {
    for (const WallColumns& w : walls_) {
      const std::size_t n = w.rays.size();
      std::vector<std::vector<int>> points(n);
      OutlineLoop front;
      for (std::size_t i = 0; i < n; ++i) {
        const bool fans = i > 0 && w.rays[i].point == w.rays[i - 1].point;
        const std::vector<double> heights = w.heights(i);
        for (std::size_t k = 0; k < heights.size(); ++k)
          points[i].push_back(k == 0 && fans ? points[i - 1][0]
                                             : add_point(w.wall.points[w.rays[i].point] +
                                                         w.rays[i].direction * heights[k]));
        front.points.push_back(out_.points.back()), front.part_of.push_back(0);
      }
      const int first = out_.cells, layers = w.layers;
      const auto cell = [&](std::size_t column, int layer) {
        return first + static_cast<int>(column) * layers + layer;
      };
      for (std::size_t i = 0; i < n; ++i) {
        const std::size_t j = w.next(i), before = i == 0 ? n - 1 : i - 1;
        for (int k = 0; k < layers; ++k)  // out along the ray
          out_.edges.push_back(
              {points[i][at(k)], points[i][at(k + 1)], cell(i, k), cell(before, k)});
        for (int k = 1; k < layers; ++k)
          out_.edges.push_back({points[i][at(k)], points[j][at(k)], cell(i, k - 1), cell(i, k)});
        if (!w.in_fan(i))  // the body lies to the left of its wall: the cell shall
          out_.edges.push_back({points[j][0], points[i][0], cell(i, 0),
                                -1 - boundary_of_part(w.wall.part_of[w.rays[i].point])});
        fronts_.push_back({points[i].back(), points[j].back(), {}});
        behind_front_.push_back(cell(i, layers - 1));
      }
      out_.cells += static_cast<int>(n) * layers;
      front_loops_.push_back(std::move(front));
    }
    out_.layer_cells = out_.cells;
  }

  int node(int x, int z) {
    const auto [found, fresh] = nodes_.try_emplace(
        static_cast<std::uint64_t>(static_cast<unsigned>(x)) << 32 | static_cast<unsigned>(z), 0);
    if (fresh) found->second = add_point(tree_.place(x, z));
    return found->second;
  }

  void add_strand(int x0, int z0, int x1, int z1, int side, int leaf) {
    grid_.push_back({node(x0, z0), node(x1, z1), {}});
    grid_side_.push_back(side), grid_leaf_.push_back(leaf);
  }

  /// The sides of all squares, once each, the finer one's where two meet.
  void gather_strands() {
    for (std::size_t i = 0; i < tree_.leaves().size(); ++i) {
      const Quadtree::Leaf& l = tree_.leaves()[i];
      const int x = l.x, z = l.z, e = l.edge, leaf = static_cast<int>(i);
      struct Side {
        int out_x, out_z, x0, z0, x1, z1;
        PlanarSide outer;
      };
      // Anticlockwise, the square to the left.
      const Side sides[] = {{x, z - 1, x, z, x + e, z, PlanarSide::floor},
                            {x + e, z, x + e, z, x + e, z + e, PlanarSide::outflow},
                            {x, z + e, x + e, z + e, x, z + e, PlanarSide::roof},
                            {x - 1, z, x, z + e, x, z, PlanarSide::inflow}};
      for (int s = 0; s < 4; ++s) {
        const Side& side = sides[s];
        const int other = tree_.leaf_with(side.out_x, side.out_z);
        if (other < 0) {
          add_strand(side.x0, side.z0, side.x1, side.z1, static_cast<int>(side.outer), leaf);
          continue;
        }
        const int other_edge = tree_.leaves()[at(other)].edge;
        // Of equals the one to the left or below has it; finer leaves have their own.
        if (other_edge > e || (other_edge == e && (s == 1 || s == 2)))
          add_strand(side.x0, side.z0, side.x1, side.z1, -1, leaf);
      }
    }
  }

  /// For each leaf, the front's faces that come near it.
  std::vector<std::vector<int>> fronts_by_leaf() const {
    std::vector<std::vector<int>> near(tree_.leaves().size());
    for (std::size_t f = 0; f < fronts_.size(); ++f) {
      Box box;
      box.include(out_.points[at(fronts_[f].from)]), box.include(out_.points[at(fronts_[f].to)]);
      const Vec3 origin = tree_.place(0, 0);
      const auto units = [&](double length) {
        return static_cast<int>(std::floor(length / tree_.unit()));
      };
      const int x1 = std::min(units(box.hi.x - origin.x) + 1, tree_.width() - 1),
                z1 = std::min(units(box.hi.z - origin.z) + 1, tree_.height() - 1);
      // Leaf by leaf over the face's box: a row is as high as the lowest of its leaves.
      for (int z = std::max(0, units(box.lo.z - origin.z) - 1); z <= z1;) {
        int low = 1 << 30;
        for (int x = std::max(0, units(box.lo.x - origin.x) - 1); x <= x1;) {
          const int leaf = tree_.leaf_with(x, z);
          const Quadtree::Leaf& l = tree_.leaves()[at(leaf)];
          if (near[at(leaf)].empty() || near[at(leaf)].back() != static_cast<int>(f))
            near[at(leaf)].push_back(static_cast<int>(f));
          x = l.x + l.edge, low = std::min(low, l.z + l.edge);
        }
        z = low;
      }
    }
    return near;
  }

  void cut_strands() {
    const auto near = fronts_by_leaf();
    for (std::size_t g = 0; g < grid_.size(); ++g)
      for (const int f : near[at(grid_leaf_[g])]) {
        Strand &strand = grid_[g], &front = fronts_[at(f)];
        const Vec3 a = out_.points[at(strand.from)], b = out_.points[at(strand.to)];
        const Crossing x = crossing(a, b, out_.points[at(front.from)], out_.points[at(front.to)]);
        if (!x.found) continue;
        constexpr double nearest = 1e-7;  // to an end: too near to be told apart
        for (const double share : {x.of_first, x.of_second})
          if (share < nearest || share > 1 - nearest) fail(a);
        const int point = add_point(a + (b - a) * x.of_first);
        strand.cuts.push_back({x.of_first, point}), front.cuts.push_back({x.of_second, point});
      }
  }

  /// Edges from the strands: those of squares as far as they lie in the air, all of the fronts.
  void keep_air() {
    const Winding winding(front_loops_);
    std::vector<std::vector<int>> stations(grid_.size());
    std::vector<std::vector<char>> air(grid_.size());
    parallel_for(
        grid_.size(),
        [&](std::size_t g) {
          stations[g] = grid_[g].stations();
          for (std::size_t k = 0; k + 1 < stations[g].size(); ++k)
            air[g].push_back(
                winding((out_.points[at(stations[g][k])] + out_.points[at(stations[g][k + 1])]) *
                        0.5) == 0);
        },
        256);
    first_open_edge_ = out_.edges.size();
    for (std::size_t g = 0; g < grid_.size(); ++g)
      for (std::size_t k = 0; k + 1 < stations[g].size(); ++k)
        if (air[g][k])
          out_.edges.push_back({stations[g][k], stations[g][k + 1], -1,
                                grid_side_[g] < 0 ? open : -1 - grid_side_[g]});
    for (std::size_t f = 0; f < fronts_.size(); ++f) {
      const std::vector<int> along = fronts_[f].stations();
      // The air lies to the right of the front, and shall lie to the left.
      for (std::size_t k = along.size() - 1; k > 0; --k)
        out_.edges.push_back({along[k], along[k - 1], -1, behind_front_[f]});
    }
  }

  /// Goes round each region of air, always keeping it to the left.
  void trace_cells() {
    // Ways out of each point: number of the edge times two, plus one against its direction.
    std::unordered_map<int, std::vector<std::pair<double, int>>> out_of;
    for (std::size_t e = first_open_edge_; e < out_.edges.size(); ++e)
      for (const int back : {0, 1}) {
        const PlanarEdge& edge = out_.edges[e];
        const Vec3 d =
            (out_.points[at(edge.to)] - out_.points[at(edge.from)]) * (back ? -1.0 : 1.0);
        out_of[back ? edge.to : edge.from].push_back(
            {std::atan2(d.z, d.x), 2 * static_cast<int>(e) + back});
      }
    for (auto& [point, ways] : out_of) std::sort(ways.begin(), ways.end());
    const auto after = [&](int way) {
      const PlanarEdge& edge = out_.edges[at(way / 2)];
      const auto& ways = out_of.at(way % 2 ? edge.from : edge.to);
      const auto back = std::find_if(ways.begin(), ways.end(),
                                     [&](const auto& w) { return w.second == (way ^ 1); });
      return (back == ways.begin() ? ways.back() : *(back - 1)).second;
    };
    for (std::size_t e = first_open_edge_; e < out_.edges.size(); ++e)
      for (const int back : {0, 1}) {
        const int start = 2 * static_cast<int>(e) + back;
        if (!is_open(start)) continue;
        int way = start;
        for (int steps = 0; way != start || steps == 0; ++steps, way = after(way)) {
          if (!is_open(way) || steps > most_sides) fail(out_.points[at(out_.edges[e].from)]);
          (way % 2 ? out_.edges[at(way / 2)].right : out_.edges[at(way / 2)].left) = out_.cells;
        }
        ++out_.cells;
      }
  }

  /// True for a side of an edge that still wants its cell.
  bool is_open(int way) const {
    const PlanarEdge& edge = out_.edges[at(way / 2)];
    return way % 2 ? edge.right == open : edge.left == -1;
  }

  static constexpr int open = -1'000'000;
  static constexpr int most_sides = 10'000;

  const std::vector<WallColumns>& walls_;
  const Quadtree& tree_;
  PlanarCells out_;
  std::vector<Strand> grid_, fronts_;
  std::vector<int> grid_side_, grid_leaf_, behind_front_;
  std::vector<OutlineLoop> front_loops_;
  std::unordered_map<std::uint64_t, int> nodes_;
  std::size_t first_open_edge_ = 0;
};

}  // namespace

PlanarCells planar_cells(const std::vector<WallColumns>& walls, const Quadtree& tree) {
  return Builder(walls, tree).run();
}

}  // namespace dunefield
