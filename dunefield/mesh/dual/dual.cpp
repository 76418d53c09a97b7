#include <dunefield/mesh/dual/dual.hpp>

#include <algorithm>
#include <numeric>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

class DualBuilder {
 public:
  DualBuilder(const Octree& octree, const SolidField& solid, const DualGrid& grid,
              const std::vector<std::string>& parts, bool half,
              const std::vector<std::uint64_t>& declared, std::vector<CutEdge>& known)
      : octree_(octree),
        solid_(solid),
        vertices_(grid.vertices),
        edges_(grid.edges),
        parts_(parts),
        half_(half),
        known_(known),
        thin_wall_(grid.thin_wall),
        sign_(grid.solid) {
    for (const std::uint64_t key : declared) {
      const auto v =
          std::lower_bound(vertices_.begin(), vertices_.end(), key,
                           [](const DualVertex& a, std::uint64_t k) { return a.key < k; });
      if (v != vertices_.end() && v->key == key) sign_[at(v - vertices_.begin())] = 1;
    }
  }

  DualMesh build() {
    flood_air();
    join_components();
    number_points();
    make_faces();
    collect_crossings();
    return std::move(out_);
  }

 private:
  const Octree::Leaf& leaf(int i) const { return octree_.leaves()[at(i)]; }
  bool in_air(int vertex) const { return !sign_[at(vertex)]; }
  /// Air goes along the edge from end to end.
  bool is_open(std::size_t e) const {
    return in_air(edges_[e].from) && in_air(edges_[e].to) && !thin_wall_[e];
  }
  /// Air is what the inflow reaches over air-air edges; the rest is listed as pockets and made
  /// solid.
  void flood_air() {
    std::vector<int> parent(vertices_.size());
    std::iota(parent.begin(), parent.end(), 0);
    for (std::size_t e = 0; e < edges_.size(); ++e)
      if (is_open(e)) unite(parent, edges_[e].from, edges_[e].to);
    std::vector<char> reached(vertices_.size(), 0);
    bool any = false;
    for (std::size_t i = 0; i < vertices_.size(); ++i)
      if (vertices_[i].on_boundary(0, false) && !sign_[i])
        reached[at(root(parent, static_cast<int>(i)))] = 1, any = true;
    if (!any)
      throw MeshError("the inflow lies inside the vehicle", "tunnel", "check unit and placement");
    std::vector<int> pocket_of(vertices_.size(), -1);
    for (std::size_t i = 0; i < vertices_.size(); ++i) {
      if (sign_[i]) continue;
      const int r = root(parent, static_cast<int>(i));
      if (reached[at(r)]) continue;
      if (pocket_of[at(r)] < 0)
        pocket_of[at(r)] = static_cast<int>(out_.pockets.size()), out_.pockets.emplace_back();
      AirPocket& pocket = out_.pockets[at(pocket_of[at(r)])];
      pocket.place =
          (pocket.place * pocket.cells + octree_.position(vertices_[i].place)) / (pocket.cells + 1);
      pocket.volume += volume_at(octree_, vertices_[i]);
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
    if (a < b)
      parent[at(b)] = a;
    else
      parent[at(a)] = b;
  }

  /// In a leaf that the surface crosses, each edge-connected group of air corners gets a point of
  /// its own.
  void join_components() {
    crossed_.assign(octree_.leaves().size(), 0);
    for (std::size_t i = 0; i < vertices_.size(); ++i)
      if (sign_[i])
        for (const int l : vertices_[i].leaf) crossed_[at(l)] = 1;
    for (std::size_t e = 0; e < edges_.size(); ++e)
      if (thin_wall_[e])
        for (const int o : ring_octants(edges_[e].axis, true))
          crossed_[at(vertices_[at(edges_[e].from)].leaf[at(o)])] = 1;
    parent_.resize(8 * vertices_.size());
    std::iota(parent_.begin(), parent_.end(), 0);
    for (std::size_t i = 0; i < vertices_.size(); ++i) {
      const DualVertex& v = vertices_[i];
      if (sign_[i]) continue;
      for (int a = 0; a < 8; ++a)
        if (crossed_[at(v.leaf[at(a)])])
          for (int b = a + 1; b < 8; ++b)
            if (v.entity(a) == v.entity(b))
              unite(parent_, node(static_cast<int>(i), a), node(static_cast<int>(i), b));
    }
    for (std::size_t i = 0; i < edges_.size(); ++i) {
      if (!is_open(i)) continue;
      const DualEdge& e = edges_[i];
      for (const int o : ring_octants(e.axis, true))
        if (crossed_[at(vertices_[at(e.from)].leaf[at(o)])])
          unite(parent_, node(e.from, o), node(e.to, o ^ (1 << e.axis)));
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
        int& slot = crossed_[at(l)]
                        ? point_of_node_[at(root(parent_, node(static_cast<int>(i), o)))]
                        : point_of_entity[at(v.entity(o))];
        if (slot < 0) {
          slot = static_cast<int>(out_.point_info.size());
          const int clamped = v.clamped_axes(o);
          out_.point_info.push_back({l, static_cast<std::uint8_t>(clamped), 0, 0});
          Vec3 p = octree_.centre(leaf(l));
          for (int axis = 0; axis < 3; ++axis)
            if (clamped >> axis & 1) p[axis] = octree_.position(v.place)[axis];
          out_.mesh.points.push_back(p);
        }
        point_of_node_[at(node(static_cast<int>(i), o))] = slot;
      }
    }
  }

  struct Face {
    int below, above;  ///< cells; a boundary face has its boundary number in `above`
    int from;          ///< vertex whose octants give the ring
    std::array<int, 4> ring;
  };

  /// Points of a face, neighbours that are the same counted once. @return how many
  int ring_of(const Face& f, std::array<int, 4>& ring) const {
    int n = 0;
    for (const int o : f.ring) {
      const int p = point_of_node_[at(node(f.from, o))];
      if (n == 0 || ring[at(n - 1)] != p) ring[at(n++)] = p;
    }
    return n > 1 && ring[at(n - 1)] == ring[0] ? n - 1 : n;
  }

  void write(const std::vector<Face>& faces) {
    VolumeMesh& m = out_.mesh;
    m.face_start.resize(faces.size() + 1), m.cell_below.resize(faces.size());
    m.face_start[0] = 0;
    parallel_for(
        faces.size(),
        [&](std::size_t f) {
          std::array<int, 4> ring;
          m.face_start[f + 1] = ring_of(faces[f], ring);
          m.cell_below[f] = faces[f].below;
        },
        4096);
    std::partial_sum(m.face_start.begin(), m.face_start.end(), m.face_start.begin());
    m.face_points.resize(at(m.face_start.back()));
    parallel_for(
        faces.size(),
        [&](std::size_t f) {
          std::array<int, 4> ring;
          std::copy_n(ring.begin(), ring_of(faces[f], ring),
                      m.face_points.begin() + m.face_start[f]);
        },
        4096);
  }

  void make_faces() {
    number_cells();
    std::vector<Face> inner = inner_faces();
    std::vector<Face> outer = wall_faces();
    add_tunnel_faces(outer);
    std::stable_sort(outer.begin(), outer.end(), [](const Face& a, const Face& b) {
      return a.above != b.above ? a.above < b.above : a.below < b.below;
    });
    for (const Face& f : inner) out_.mesh.cell_above.push_back(f.above);
    name_boundaries(static_cast<int>(inner.size()), outer);
    inner.insert(inner.end(), outer.begin(), outer.end());
    write(inner);
  }

  /// Each vertex in the air is a cell.
  void number_cells() {
    cell_.assign(vertices_.size(), -1);
    for (std::size_t i = 0; i < vertices_.size(); ++i)
      if (!sign_[i]) {
        cell_[i] = out_.mesh.cells++;
        out_.cell_vertex.push_back(static_cast<int>(i));
        out_.cell_hanging_crossed.push_back(is_hanging_crossed(vertices_[i]));
      }
  }

  /// Faces between cells, by their lower, then their higher one. Edges run upwards, and so from a
  /// lower cell to a higher; only the three of a cell need to be put in order.
  std::vector<Face> inner_faces() const {
    std::vector<Face> inner;
    for (std::size_t i = 0; i < edges_.size(); ++i) {
      const DualEdge& e = edges_[i];
      if (is_open(i))
        inner.push_back({cell_[at(e.from)], cell_[at(e.to)], e.from, ring_octants(e.axis, true)});
    }
    for (std::size_t first = 0, last; first < inner.size(); first = last) {
      for (last = first; last < inner.size() && inner[last].below == inner[first].below;) ++last;
      std::sort(inner.begin() + static_cast<std::ptrdiff_t>(first),
                inner.begin() + static_cast<std::ptrdiff_t>(last),
                [](const Face& a, const Face& b) { return a.above < b.above; });
    }
    return inner;
  }

  /// An edge that the surface cuts, seen from an end in the air; one with a thin wall has two.
  struct CutSide {
    const DualEdge* edge;
    bool upper;  ///< seen from its upper end
    int air() const { return upper ? edge->to : edge->from; }
    int end() const { return upper ? edge->from : edge->to; }
  };

  std::vector<CutSide> cut_sides() const {
    std::vector<CutSide> sides;
    for (std::size_t i = 0; i < edges_.size(); ++i) {
      const DualEdge& e = edges_[i];
      if (is_open(i)) continue;
      for (const bool upper : {false, true})
        if (in_air(upper ? e.to : e.from)) sides.push_back({&e, upper});
    }
    return sides;
  }

  /// Where the surface crosses these edges.
  void find_crossings(const std::vector<CutSide>& cut) {
    cut_crossing_.resize(cut.size());
    std::vector<CutEdge> now(cut.size());
    parallel_for(
        cut.size(),
        [&](std::size_t i) {
          const DualVertex &air = vertices_[at(cut[i].air())], &end = vertices_[at(cut[i].end())];
          CutEdge& edge = now[i];
          edge = {air.key, end.key, std::min(air.longest, end.longest), {}};
          const auto known = std::lower_bound(known_.begin(), known_.end(), edge);
          edge.crossing = known != known_.end() && !(edge < *known)
                              ? known->crossing
                              : crossing_of(air, end, edge.longest);
          cut_crossing_[i] = edge.crossing;
        },
        64);
    std::sort(now.begin(), now.end());
    known_ = std::move(now);
  }

  /// A face for each side of an edge that the surface cuts; where it does is kept in
  /// `cut_crossing_`.
  std::vector<Face> wall_faces() {
    const std::vector<CutSide> cut = cut_sides();
    find_crossings(cut);
    std::vector<Face> outer;
    for (std::size_t i = 0; i < cut.size(); ++i) {
      const int v = cut[i].air();
      const std::array<int, 4> ring = ring_octants(cut[i].edge->axis, !cut[i].upper);
      outer.push_back({cell_[at(v)], 6 + cut_crossing_[i].part, v, ring});
      for (const int o : ring)
        cut_of_point_.push_back({point_of_node_[at(node(v, o))], static_cast<int>(i)});
    }
    return outer;
  }

  SolidField::Crossing crossing_of(const DualVertex& air, const DualVertex& end,
                                   int longest) const {
    SolidField::Crossing c = solid_.crossing(sample_point(octree_, air), sample_point(octree_, end),
                                             least_thickness(octree_, longest));
    c.point -= sample_point(octree_, air) - octree_.position(air.place);
    return c;
  }

  void add_tunnel_faces(std::vector<Face>& outer) const {
    for (std::size_t i = 0; i < vertices_.size(); ++i) {
      if (cell_[i] < 0) continue;
      for (int side = 0; side < 6; ++side)
        if (vertices_[i].on_boundary(side / 2, side % 2))
          outer.push_back({cell_[i], side, static_cast<int>(i), ring_octants(side / 2, side % 2)});
    }
  }

  /// @param outer by boundary: first the tunnel's six sides, then the parts
  void name_boundaries(int inner_faces, const std::vector<Face>& outer) {
    static const char* names[6] = {"inflow", "outflow", "left wall", "right wall", "road", "roof"};
    static const BoundaryKind kinds[6] = {BoundaryKind::inflow, BoundaryKind::outflow,
                                          BoundaryKind::side,   BoundaryKind::side,
                                          BoundaryKind::road,   BoundaryKind::roof};
    std::size_t next = 0;
    for (int p = 0; p < 6 + static_cast<int>(parts_.size()); ++p) {
      Boundary boundary{p < 6 ? names[p] : parts_[at(p - 6)], p < 6 ? kinds[p] : BoundaryKind::part,
                        inner_faces + static_cast<int>(next), 0};
      if (p == 2 && half_)
        boundary.name = "centre plane", boundary.kind = BoundaryKind::centre_plane;
      for (; next < outer.size() && outer[next].above == p; ++next) ++boundary.count;
      out_.mesh.boundaries.push_back(boundary);
    }
  }

  bool is_hanging_crossed(const DualVertex& v) const {
    bool hanging = false;
    for (const int l : v.leaf) {
      if (!crossed_[at(l)]) return false;
      const Lattice c = leaf(l).corner();
      for (std::size_t axis = 0; axis < 3; ++axis)
        if (v.place[axis] != c[axis] && v.place[axis] != c[axis] + leaf(l).edge()) hanging = true;
    }
    return hanging;
  }

  void collect_crossings() {
    std::sort(cut_of_point_.begin(), cut_of_point_.end());
    cut_of_point_.erase(std::unique(cut_of_point_.begin(), cut_of_point_.end()),
                        cut_of_point_.end());
    for (const auto& [point, cut] : cut_of_point_) {
      DualPoint& p = out_.point_info[at(point)];
      if (p.crossings++ == 0) p.first_crossing = static_cast<int>(out_.crossings.size());
      out_.crossings.push_back(cut_crossing_[at(cut)]);
    }
  }

  const Octree& octree_;
  const SolidField& solid_;
  const std::vector<DualVertex>& vertices_;
  const std::vector<DualEdge>& edges_;
  const std::vector<std::string>& parts_;
  bool half_;
  std::vector<CutEdge>& known_;
  const std::vector<char>& thin_wall_;  ///< per edge
  std::vector<char> sign_;              ///< per vertex; 1: solid
  std::vector<char> crossed_;
  std::vector<int> cell_;  ///< per vertex; -1: solid
  std::vector<int> parent_, point_of_node_;
  std::vector<SolidField::Crossing> cut_crossing_;
  std::vector<std::pair<int, int>> cut_of_point_;
  DualMesh out_;
};

}  // namespace

DualMesh build_dual(const Octree& octree, const SolidField& solid, const DualGrid& grid,
                    const std::vector<std::string>& part_names, bool half,
                    const std::vector<std::uint64_t>& declared_solid, std::vector<CutEdge>& known) {
  return DualBuilder(octree, solid, grid, part_names, half, declared_solid, known).build();
}

}  // namespace dunefield
