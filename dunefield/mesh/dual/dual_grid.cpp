#include <dunefield/mesh/dual/dual_grid.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

/// Keys of all corners of leaves, ascending. Most are the lower corner of a leaf; those that are
/// not hang on a larger leaf, or lie on the upper sides of the box.
std::vector<std::uint64_t> corner_keys(const Octree& octree) {
  const auto& leaves = octree.leaves();
  std::vector<std::uint64_t> lower(leaves.size());
  for (std::size_t i = 0; i < leaves.size(); ++i) lower[i] = leaves[i].key;
  using Keys = std::vector<std::uint64_t>;
  Keys others = join_blocks(
      leaves.size(), Keys{},
      [&](std::size_t first, std::size_t last) {
        Keys found;
        for (std::size_t i = first; i < last; ++i) {
          const Octree::Leaf& leaf = leaves[i];
          const Lattice c = leaf.corner();
          for (int o = 1; o < 8; ++o) {
            const Lattice p = {c[0] + (o & 1 ? leaf.edge() : 0), c[1] + (o & 2 ? leaf.edge() : 0),
                               c[2] + (o & 4 ? leaf.edge() : 0)};
            const std::uint64_t key = morton_key(p);
            if (!octree.holds(p) || leaves[at(octree.find(p, static_cast<int>(i)))].key != key)
              found.push_back(key);
          }
        }
        std::sort(found.begin(), found.end());
        found.erase(std::unique(found.begin(), found.end()), found.end());
        return found;
      },
      [](Keys& all, const Keys& more) { all.insert(all.end(), more.begin(), more.end()); });
  std::sort(others.begin(), others.end());
  others.erase(std::unique(others.begin(), others.end()), others.end());
  std::vector<std::uint64_t> keys(lower.size() + others.size());
  std::merge(lower.begin(), lower.end(), others.begin(), others.end(), keys.begin());
  return keys;
}

void find_vertices(const Octree& octree, std::vector<DualVertex>& vertices) {
  const std::vector<std::uint64_t> keys = corner_keys(octree);
  vertices.resize(keys.size());
  const Lattice extent = octree.extent();
  const auto leaves = static_cast<double>(octree.leaves().size());
  parallel_for(keys.size(), [&](std::size_t i) {
    DualVertex& v = vertices[i];
    v.key = keys[i];
    v.place = morton_position(keys[i]);
    for (std::size_t axis = 0; axis < 3; ++axis) {
      if (v.place[axis] == 0) v.outside |= static_cast<std::uint8_t>(1 << (2 * axis));
      if (v.place[axis] == extent[axis]) v.outside |= static_cast<std::uint8_t>(2 << (2 * axis));
    }
    int near = static_cast<int>(leaves * static_cast<double>(i) / static_cast<double>(keys.size()));
    v.smallest = 1 << 30;
    for (int o = 7; o >= 0; --o) {
      Lattice p;
      for (std::size_t axis = 0; axis < 3; ++axis)
        p[axis] = std::clamp(v.place[axis] + (o >> axis & 1) - 1, 0, extent[axis] - 1);
      near = v.leaf[at(o)] = octree.find(p, near);
      v.smallest = std::min(v.smallest, octree.leaves()[at(near)].edge());
    }
  });
}

/// An edge leaves a vertex along an axis where the four octants there hold three leaves or more.
void find_edges(const Octree& octree, std::vector<DualVertex>& vertices,
                std::vector<DualEdge>& edges) {
  std::vector<std::array<int, 3>> ends(vertices.size());
  parallel_for(vertices.size(), [&](std::size_t i) {
    const DualVertex& v = vertices[i];
    for (int axis = 0; axis < 3; ++axis) {
      ends[i][at(axis)] = -1;
      if (v.on_boundary(axis, true)) continue;
      std::array<std::int64_t, 4> around;
      int smallest = 1 << 30;
      for (int k = 0; k < 4; ++k) {
        const int o = ring_octants(axis, true)[at(k)];
        around[at(k)] = v.entity(o);
        smallest = std::min(smallest, octree.leaves()[at(v.leaf[at(o)])].edge());
      }
      std::sort(around.begin(), around.end());
      if (std::unique(around.begin(), around.end()) - around.begin() < 3) continue;
      Lattice p = v.place;
      p[at(axis)] += smallest;
      ends[i][at(axis)] =
          last_not_above(static_cast<int>(vertices.size()), morton_key(p), static_cast<int>(i),
                         [&](int k) { return vertices[at(k)].key; });
    }
  });
  for (std::size_t i = 0; i < vertices.size(); ++i)
    for (int axis = 0; axis < 3; ++axis)
      if (ends[i][at(axis)] >= 0) edges.push_back({static_cast<int>(i), ends[i][at(axis)], axis});
  for (const DualEdge& e : edges) {
    DualVertex &from = vertices[at(e.from)], &to = vertices[at(e.to)];
    const int length = to.place[at(e.axis)] - from.place[at(e.axis)];
    from.longest = std::max(from.longest, length), to.longest = std::max(to.longest, length);
  }
}

/// Each vertex is asked by itself. Its neighbours cannot tell: through a hole in the surface inside
/// and outside meet, and a rod or a speck thinner than a leaf reaches, as thick as it is taken,
/// beyond the leaves that it crosses.
void find_signs(const Octree& octree, const SolidField& solid, const DualGrid& before,
                DualGrid& grid) {
  const Box box = solid.bounds();
  grid.solid.assign(grid.vertices.size(), 0);
  parallel_for(
      grid.vertices.size(),
      [&](std::size_t i) {
        const DualVertex& v = grid.vertices[i];
        const auto known =
            std::lower_bound(before.vertices.begin(), before.vertices.end(), v.key,
                             [](const DualVertex& a, std::uint64_t key) { return a.key < key; });
        if (known != before.vertices.end() && known->key == v.key && known->longest == v.longest) {
          grid.solid[i] = before.solid[at(known - before.vertices.begin())];
          return;
        }
        const Vec3 p = sample_point(octree, v);
        const double thickness = least_thickness(octree, v.longest);
        grid.solid[i] = box.contains(p, thickness) && solid.inside(p, thickness);
      },
      64);
}

/// For each edge the same one of an earlier grid, or -1.
std::vector<int> same_edges(const DualGrid& before, const DualGrid& grid) {
  std::vector<int> same(grid.edges.size(), -1);
  const auto place = [](const DualGrid& g, std::size_t e) {
    return std::pair(g.vertices[at(g.edges[e].from)].key, g.edges[e].axis);
  };
  for (std::size_t i = 0, j = 0; i < same.size() && j < before.edges.size(); ++i) {
    while (j < before.edges.size() && place(before, j) < place(grid, i)) ++j;
    if (j < before.edges.size() && place(before, j) == place(grid, i) &&
        before.vertices[at(before.edges[j].to)].key == grid.vertices[at(grid.edges[i].to)].key)
      same[i] = static_cast<int>(j);
  }
  return same;
}

/// No wall may slip between the ends of an edge: one thinner than that parts the air there.
void find_thin_walls(const Octree& octree, const SolidField& solid, const DualGrid& before,
                     DualGrid& grid) {
  const Box box = solid.bounds();
  grid.thin_wall.assign(grid.edges.size(), 0);
  const std::vector<int> same = same_edges(before, grid);
  parallel_for(
      grid.edges.size(),
      [&](std::size_t i) {
        const DualEdge& e = grid.edges[i];
        if (grid.solid[at(e.from)] || grid.solid[at(e.to)]) return;
        if (same[i] >= 0 && !before.solid[at(before.edges[at(same[i])].from)] &&
            !before.solid[at(before.edges[at(same[i])].to)]) {
          grid.thin_wall[i] = before.thin_wall[at(same[i])];
          return;
        }
        const Vec3 a = sample_point(octree, grid.vertices[at(e.from)]),
                   b = sample_point(octree, grid.vertices[at(e.to)]);
        if (box.contains(0.5 * (a + b), norm(b - a)))
          grid.thin_wall[i] = solid.thin_wall_between(a, b);
      },
      256);
}

}  // namespace

int DualVertex::clamped_axes(int octant) const {
  int mask = 0;
  for (int axis = 0; axis < 3; ++axis)
    if (on_boundary(axis, octant >> axis & 1)) mask |= 1 << axis;
  return mask;
}

double least_thickness(const Octree& octree, int longest) { return longest * octree.unit(); }

Vec3 sample_point(const Octree& octree, const DualVertex& vertex) {
  const double u = octree.unit();
  return octree.position(vertex.place) + Vec3{1.37e-4 * u, 1.71e-4 * u, 0.93e-4 * u};
}

double volume_at(const Octree& octree, const DualVertex& vertex) {
  double volume = 0;
  for (const int l : vertex.leaf) {
    const Octree::Leaf& leaf = octree.leaves()[at(l)];
    const Lattice c = leaf.corner();
    bool is_corner = true;
    for (std::size_t axis = 0; axis < 3; ++axis)
      is_corner = is_corner &&
                  (vertex.place[axis] == c[axis] || vertex.place[axis] == c[axis] + leaf.edge());
    if (is_corner) volume += std::pow(octree.size(leaf), 3) / 8;
  }
  return volume;
}

std::array<int, 4> ring_octants(int axis, bool upper) {
  const int a = 1 << axis, b = 1 << (axis + 1) % 3, c = 1 << (axis + 2) % 3;
  const int base = upper ? a : 0;
  std::array<int, 4> ring = {base, base | b, base | b | c, base | c};
  if (!upper) std::reverse(ring.begin(), ring.end());
  return ring;
}

DualGrid make_dual_grid(const Octree& octree, const SolidField& solid, const DualGrid& before) {
  DualGrid grid;
  find_vertices(octree, grid.vertices);
  find_edges(octree, grid.vertices, grid.edges);
  find_signs(octree, solid, before, grid);
  find_thin_walls(octree, solid, before, grid);
  return grid;
}

}  // namespace dunefield
