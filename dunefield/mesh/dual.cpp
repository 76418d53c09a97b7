#include <dunefield/mesh/dual.hpp>

#include <algorithm>
#include <numeric>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

/// Octants on the side `direction` (axis, upper or lower) of a vertex, counter-clockwise seen from that side.
std::array<int, 4> ring_octants(int axis, bool upper) {
  const int a = 1 << axis, b = 1 << (axis + 1) % 3, c = 1 << (axis + 2) % 3;
  const int base = upper ? a : 0;
  std::array<int, 4> ring = {base, base | b, base | b | c, base | c};
  if (!upper) std::reverse(ring.begin(), ring.end());
  return ring;
}

struct Edge {
  int from = -1, to = -1;  ///< vertices
  int axis = 0;
};

class DualBuilder {
 public:
  DualBuilder(const Octree& octree, const SolidField& solid, const std::vector<std::string>& parts, bool half,
              const std::unordered_set<std::uint64_t>& declared, KnownSigns& known, const Progress& progress)
      : octree_(octree), solid_(solid), parts_(parts), half_(half), declared_(declared), known_(known), progress_(progress) {}

  DualMesh build() {
    find_vertices();
    progress_.check();
    find_edges();
    find_signs();
    progress_.check();
    flood_air();
    join_components();
    number_points();
    make_faces();
    collect_crossings();
    return std::move(out_);
  }

 private:
  static std::size_t at(int i) { return static_cast<std::size_t>(i); }
  const Octree::Leaf& leaf(int i) const { return octree_.leaves()[at(i)]; }
  bool on_boundary(const DualVertex& v, int axis, bool upper) const { return v.outside >> (2 * axis + upper) & 1; }
  /// Axes along which an octant of a vertex lies outside the box.
  static int clamped_axes(const DualVertex& v, int octant) {
    int mask = 0;
    for (int axis = 0; axis < 3; ++axis)
      if (v.outside >> (2 * axis + (octant >> axis & 1)) & 1) mask |= 1 << axis;
    return mask;
  }
  static std::int64_t entity(const DualVertex& v, int octant) { return std::int64_t{v.leaf[at(octant)]} * 8 + clamped_axes(v, octant); }

  void find_vertices() {
    std::vector<std::uint64_t> keys;
    keys.reserve(8 * octree_.leaves().size());
    for (const auto& l : octree_.leaves()) {
      const Lattice c = l.corner();
      for (int o = 0; o < 8; ++o)
        keys.push_back(morton_key({c[0] + (o & 1 ? l.edge() : 0), c[1] + (o & 2 ? l.edge() : 0), c[2] + (o & 4 ? l.edge() : 0)}));
    }
    std::sort(keys.begin(), keys.end());
    keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
    vertices_.resize(keys.size());
    const Lattice extent = octree_.extent();
    parallel_for(keys.size(), [&](std::size_t i) {
      DualVertex& v = vertices_[i];
      v.key = keys[i];
      v.at = morton_position(keys[i]);
      for (std::size_t axis = 0; axis < 3; ++axis) {
        if (v.at[axis] == 0) v.outside |= static_cast<std::uint8_t>(1 << (2 * axis));
        if (v.at[axis] == extent[axis]) v.outside |= static_cast<std::uint8_t>(2 << (2 * axis));
      }
      for (int o = 0; o < 8; ++o) {
        Lattice p;
        for (std::size_t axis = 0; axis < 3; ++axis) p[axis] = std::clamp(v.at[axis] + (o >> axis & 1) - 1, 0, extent[axis] - 1);
        v.leaf[at(o)] = octree_.find(p);
      }
    });
  }

  int find_vertex(const Lattice& p) const {
    const std::uint64_t key = morton_key(p);
    const auto it = std::lower_bound(vertices_.begin(), vertices_.end(), key, [](const DualVertex& v, std::uint64_t k) { return v.key < k; });
    return static_cast<int>(it - vertices_.begin());
  }

  /// An edge leaves a vertex along an axis where the four octants there hold three leaves or more.
  void find_edges() {
    std::vector<std::array<int, 3>> ends(vertices_.size());
    parallel_for(vertices_.size(), [&](std::size_t i) {
      const DualVertex& v = vertices_[i];
      for (int axis = 0; axis < 3; ++axis) {
        ends[i][at(axis)] = -1;
        if (on_boundary(v, axis, true)) continue;
        std::array<std::int64_t, 4> around;
        int smallest = 1 << 30;
        for (int k = 0; k < 4; ++k) {
          const int o = ring_octants(axis, true)[at(k)];
          around[at(k)] = entity(v, o);
          smallest = std::min(smallest, leaf(v.leaf[at(o)]).edge());
        }
        std::sort(around.begin(), around.end());
        if (std::unique(around.begin(), around.end()) - around.begin() < 3) continue;
        Lattice p = v.at;
        p[at(axis)] += smallest;
        ends[i][at(axis)] = find_vertex(p);
      }
    });
    for (std::size_t i = 0; i < vertices_.size(); ++i)
      for (int axis = 0; axis < 3; ++axis)
        if (ends[i][at(axis)] >= 0) edges_.push_back({static_cast<int>(i), ends[i][at(axis)], axis});
  }

  /// Where a lattice plane coincides with a flat side of the vehicle, rounding would decide each vertex by itself;
  /// the field is sampled a constant trifle aside instead.
  Vec3 sample_point(const DualVertex& v) const {
    const double u = octree_.unit();
    return octree_.position(v.at) + Vec3{1.37e-4 * u, 1.71e-4 * u, 0.93e-4 * u};
  }

  int smallest_leaf(const DualVertex& v) const {
    int smallest = 1 << 30;
    for (const int l : v.leaf) smallest = std::min(smallest, leaf(l).edge());
    return smallest;
  }

  /// Plates thinner than this are taken as this thick, so that they part the lattice.
  double least_thickness(int smallest) const {
    constexpr double leaves = 1.1;
    return leaves * smallest * octree_.unit();
  }

  /// What is remembered of vertex `i`, or nothing.
  char remembered(std::size_t i, int smallest) const {
    const auto it = std::lower_bound(known_.key.begin(), known_.key.end(), vertices_[i].key);
    if (it == known_.key.end() || *it != vertices_[i].key) return nothing;
    const auto k = static_cast<std::size_t>(it - known_.key.begin());
    return known_.smallest[k] == smallest ? known_.sign[k] : nothing;
  }

  void find_signs() {
    KnownSigns now;
    now.key.resize(vertices_.size()), now.smallest.resize(vertices_.size());
    sign_.assign(vertices_.size(), nothing);
    parallel_for(vertices_.size(), [&](std::size_t i) {
      const int smallest = smallest_leaf(vertices_[i]);
      now.key[i] = vertices_[i].key, now.smallest[i] = smallest;
      sign_[i] = remembered(i, smallest);
    });
    // Each vertex is asked by itself. Its neighbours cannot tell: through a hole in the surface inside and outside meet, and a plate or a
    // speck thinner than a leaf reaches, as thick as it is taken, beyond the leaves that it crosses.
    const Box box = solid_.bounds();
    parallel_for(vertices_.size(), [&](std::size_t i) {
      if (sign_[i] != nothing) return;
      const Vec3 p = sample_point(vertices_[i]);
      const double thickness = least_thickness(now.smallest[i]);
      sign_[i] = box.contains(p, thickness) && solid_.inside(p, thickness);
    }, 64);
    now.sign = sign_;
    known_ = std::move(now);
    for (std::size_t i = 0; i < vertices_.size(); ++i)
      if (declared_.count(vertices_[i].key)) sign_[i] = 1;
  }

  /// Air is what the inflow reaches over air-air edges; the rest is listed as pockets and made solid.
  void flood_air() {
    std::vector<int> parent(vertices_.size());
    std::iota(parent.begin(), parent.end(), 0);
    for (const Edge& e : edges_)
      if (!sign_[at(e.from)] && !sign_[at(e.to)]) unite(parent, e.from, e.to);
    std::vector<char> reached(vertices_.size(), 0);
    bool any = false;
    for (std::size_t i = 0; i < vertices_.size(); ++i)
      if (on_boundary(vertices_[i], 0, false) && !sign_[i]) reached[at(root(parent, static_cast<int>(i)))] = 1, any = true;
    if (!any) throw MeshError("the inflow lies inside the vehicle", "tunnel", "check unit and placement");
    std::vector<int> pocket_of(vertices_.size(), -1);
    for (std::size_t i = 0; i < vertices_.size(); ++i) {
      if (sign_[i]) continue;
      const int r = root(parent, static_cast<int>(i));
      if (reached[at(r)]) continue;
      if (pocket_of[at(r)] < 0) pocket_of[at(r)] = static_cast<int>(out_.pockets.size()), out_.pockets.emplace_back();
      AirPocket& pocket = out_.pockets[at(pocket_of[at(r)])];
      double volume = 0;
      for (const int l : vertices_[i].leaf) volume += std::pow(octree_.size(leaf(l)), 3) / 8;
      pocket.place = (pocket.place * pocket.cells + octree_.position(vertices_[i].at)) / (pocket.cells + 1);
      pocket.volume += volume;
      ++pocket.cells;
      sign_[i] = 1;
    }
  }

  static int root(std::vector<int>& parent, int i) {
    while (parent[at(i)] != i) i = parent[at(i)] = parent[at(parent[at(i)])];
    return i;
  }
  static void unite(std::vector<int>& parent, int a, int b) {
    a = root(parent, a), b = root(parent, b);
    if (a < b) parent[at(b)] = a;
    else parent[at(a)] = b;
  }

  /// In a leaf that the surface crosses, each edge-connected group of air corners gets a point of its own.
  void join_components() {
    crossed_.assign(octree_.leaves().size(), 0);
    for (std::size_t i = 0; i < vertices_.size(); ++i)
      if (sign_[i])
        for (const int l : vertices_[i].leaf) crossed_[at(l)] = 1;
    parent_.resize(8 * vertices_.size());
    std::iota(parent_.begin(), parent_.end(), 0);
    for (std::size_t i = 0; i < vertices_.size(); ++i) {
      const DualVertex& v = vertices_[i];
      if (sign_[i]) continue;
      for (int a = 0; a < 8; ++a)
        if (crossed_[at(v.leaf[at(a)])])
          for (int b = a + 1; b < 8; ++b)
            if (entity(v, a) == entity(v, b)) unite(parent_, node(static_cast<int>(i), a), node(static_cast<int>(i), b));
    }
    for (const Edge& e : edges_) {
      if (sign_[at(e.from)] || sign_[at(e.to)]) continue;
      for (const int o : ring_octants(e.axis, true))
        if (crossed_[at(vertices_[at(e.from)].leaf[at(o)])]) unite(parent_, node(e.from, o), node(e.to, o ^ (1 << e.axis)));
    }
  }
  static int node(int vertex, int octant) { return 8 * vertex + octant; }

  void number_points() {
    point_of_node_.assign(parent_.size(), -1);
    std::vector<int> point_of_entity(8 * octree_.leaves().size(), -1);
    for (std::size_t i = 0; i < vertices_.size(); ++i) {
      const DualVertex& v = vertices_[i];
      if (sign_[i]) continue;
      for (int o = 0; o < 8; ++o) {
        const int l = v.leaf[at(o)];
        int& slot = crossed_[at(l)] ? point_of_node_[at(root(parent_, node(static_cast<int>(i), o)))]
                                    : point_of_entity[static_cast<std::size_t>(entity(v, o))];
        if (slot < 0) {
          slot = static_cast<int>(out_.point_info.size());
          const int clamped = clamped_axes(v, o);
          out_.point_info.push_back({l, static_cast<std::uint8_t>(clamped), 0, 0});
          Vec3 p = octree_.centre(leaf(l));
          for (int axis = 0; axis < 3; ++axis)
            if (clamped >> axis & 1) p[axis] = octree_.position(v.at)[axis];
          out_.mesh.points.push_back(p);
        }
        point_of_node_[at(node(static_cast<int>(i), o))] = slot;
      }
    }
  }

  struct Face {
    int below, above;  ///< cells; a boundary face has its patch number in `above`
    int from;          ///< vertex whose octants give the ring
    std::array<int, 4> ring;
  };

  void push_face(const Face& f) {
    std::array<int, 4> ring;
    int n = 0;
    for (const int o : f.ring) {
      const int p = point_of_node_[at(node(f.from, o))];
      if (n == 0 || ring[at(n - 1)] != p) ring[at(n++)] = p;
    }
    if (n > 1 && ring[at(n - 1)] == ring[0]) --n;
    VolumeMesh& m = out_.mesh;
    m.face_points.insert(m.face_points.end(), ring.begin(), ring.begin() + n);
    m.face_start.push_back(static_cast<int>(m.face_points.size()));
    m.cell_below.push_back(f.below);
  }

  void make_faces() {
    VolumeMesh& m = out_.mesh;
    std::vector<int> cell(vertices_.size(), -1);
    for (std::size_t i = 0; i < vertices_.size(); ++i)
      if (!sign_[i]) {
        cell[i] = m.cells++;
        out_.cell_key.push_back(vertices_[i].key);
        out_.cell_hanging_crossed.push_back(is_hanging_crossed(vertices_[i]));
      }
    std::vector<Face> inner, outer;
    std::vector<const Edge*> cut;
    for (const Edge& e : edges_) {
      const int a = cell[at(e.from)], b = cell[at(e.to)];
      if (a >= 0 && b >= 0) {
        std::array<int, 4> ring = ring_octants(e.axis, true);
        if (a > b) std::reverse(ring.begin(), ring.end());
        inner.push_back({std::min(a, b), std::max(a, b), e.from, ring});
      } else if (a >= 0 || b >= 0) {
        cut.push_back(&e);
      }
    }
    cut_crossing_.resize(cut.size());
    parallel_for(cut.size(), [&](std::size_t i) {
      const bool from_air = cell[at(cut[i]->from)] >= 0;
      const DualVertex& air = vertices_[at(from_air ? cut[i]->from : cut[i]->to)];
      const DualVertex& wall = vertices_[at(from_air ? cut[i]->to : cut[i]->from)];
      SolidField::Crossing c = solid_.crossing(sample_point(air), sample_point(wall), least_thickness(std::min(smallest_leaf(air), smallest_leaf(wall))));
      c.point -= sample_point(air) - octree_.position(air.at);
      cut_crossing_[i] = c;
    }, 64);
    const int parts = static_cast<int>(parts_.size());
    for (std::size_t i = 0; i < cut.size(); ++i) {
      const Edge& e = *cut[i];
      const bool from_air = cell[at(e.from)] >= 0;
      const int v = from_air ? e.from : e.to;
      const std::array<int, 4> ring = ring_octants(e.axis, from_air);
      outer.push_back({cell[at(v)], 6 + cut_crossing_[i].part, v, ring});
      for (const int o : ring) cut_of_point_.push_back({point_of_node_[at(node(v, o))], static_cast<int>(i)});
    }
    for (std::size_t i = 0; i < vertices_.size(); ++i) {
      if (cell[i] < 0) continue;
      for (int side = 0; side < 6; ++side)
        if (on_boundary(vertices_[i], side / 2, side % 2)) outer.push_back({cell[i], side, static_cast<int>(i), ring_octants(side / 2, side % 2)});
    }
    std::sort(inner.begin(), inner.end(), [](const Face& a, const Face& b) { return a.below != b.below ? a.below < b.below : a.above < b.above; });
    std::stable_sort(outer.begin(), outer.end(), [](const Face& a, const Face& b) { return a.above != b.above ? a.above < b.above : a.below < b.below; });
    m.face_start = {0};
    for (const Face& f : inner) push_face(f), m.cell_above.push_back(f.above);
    static const char* names[6] = {"inflow", "outflow", "left wall", "right wall", "road", "roof"};
    static const PatchKind kinds[6] = {PatchKind::inflow, PatchKind::outflow, PatchKind::side, PatchKind::side, PatchKind::road, PatchKind::roof};
    std::size_t next = 0;
    for (int p = 0; p < 6 + parts; ++p) {
      Patch patch{p < 6 ? names[p] : parts_[at(p - 6)], p < 6 ? kinds[p] : PatchKind::part, m.faces(), 0};
      if (p == 2 && half_) patch.name = "centre plane", patch.kind = PatchKind::centre_plane;
      for (; next < outer.size() && outer[next].above == p; ++next) push_face(outer[next]);
      patch.count = m.faces() - patch.first;
      m.patches.push_back(patch);
    }
  }

  bool is_hanging_crossed(const DualVertex& v) const {
    bool hanging = false;
    for (const int l : v.leaf) {
      if (!crossed_[at(l)]) return false;
      const Lattice c = leaf(l).corner();
      for (std::size_t axis = 0; axis < 3; ++axis)
        if (v.at[axis] != c[axis] && v.at[axis] != c[axis] + leaf(l).edge()) hanging = true;
    }
    return hanging;
  }

  void collect_crossings() {
    std::sort(cut_of_point_.begin(), cut_of_point_.end());
    cut_of_point_.erase(std::unique(cut_of_point_.begin(), cut_of_point_.end()), cut_of_point_.end());
    for (const auto& [point, cut] : cut_of_point_) {
      DualPoint& p = out_.point_info[at(point)];
      if (p.crossings++ == 0) p.first_crossing = static_cast<int>(out_.crossings.size());
      out_.crossings.push_back(cut_crossing_[at(cut)]);
    }
  }

  const Octree& octree_;
  const SolidField& solid_;
  const std::vector<std::string>& parts_;
  bool half_;
  const std::unordered_set<std::uint64_t>& declared_;
  KnownSigns& known_;
  const Progress& progress_;
  std::vector<DualVertex> vertices_;
  std::vector<Edge> edges_;
  static constexpr char nothing = 2;  // sign: not yet looked at
  std::vector<char> sign_;  ///< 1: solid
  std::vector<char> crossed_;
  std::vector<int> parent_, point_of_node_;
  std::vector<SolidField::Crossing> cut_crossing_;
  std::vector<std::pair<int, int>> cut_of_point_;
  DualMesh out_;
};

}  // namespace

DualMesh build_dual(const Octree& octree, const SolidField& solid, const std::vector<std::string>& part_names, bool half,
                    const std::unordered_set<std::uint64_t>& declared_solid, KnownSigns& known, const Progress& progress) {
  return DualBuilder(octree, solid, part_names, half, declared_solid, known, progress).build();
}

}  // namespace dunefield
