#include <dunefield/mesh/dual/wall_faces.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/repair/sound_moves.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// cosine of 40 degrees, between a face's normal and the group's mean
constexpr double agree = 0.766;
// cosine of 30 degrees, between two faces: with both ends of their edge on sharp edges, so is that
constexpr double bent = 0.866;
constexpr double least_soundness = 0.05;
constexpr int most_faces = 64;

using Ring = std::vector<int>;

Ring ring_of(const VolumeMesh& m, int f) {
  return Ring(m.face_points.begin() + m.face_start[at(f)],
              m.face_points.begin() + m.face_start[at(f) + 1]);
}

bool has_edge(const Ring& r, int from, int to) {
  for (std::size_t i = 0; i < r.size(); ++i)
    if (r[i] == from && r[(i + 1) % r.size()] == to) return true;
  return false;
}

/// The outline of two rings of the same sense that share a chain of edges; empty if it is not one
/// simple loop.
Ring united(const Ring& a, const Ring& b) {
  std::vector<std::pair<int, int>> rim;
  for (const auto* pair : {&a, &b}) {
    const Ring &own = *pair, &other = pair == &a ? b : a;
    for (std::size_t i = 0; i < own.size(); ++i) {
      const int from = own[i], to = own[(i + 1) % own.size()];
      if (!has_edge(other, to, from)) rim.push_back({from, to});
    }
  }
  if (rim.size() == a.size() + b.size() || rim.size() < 3) return {};
  Ring out = {rim[0].first};
  for (std::size_t step = 1; step < rim.size(); ++step) {
    int next = -1, ways = 0;
    for (const auto& [from, to] : rim)
      if (from == out.back()) next = to, ++ways;
    if (ways != 1 || std::find(out.begin(), out.end(), next) != out.end()) return {};
    out.push_back(next);
  }
  // Points inside the outline would be lost with what they are there for.
  std::size_t distinct = a.size();
  for (const int p : b) distinct += std::find(a.begin(), a.end(), p) == a.end();
  return out.size() == distinct ? out : Ring{};
}

/// The wall faces of a cell, united as far as it goes.
struct CellWalls {
  std::vector<int> faces;   // of the mesh; the first of each group keeps the polygon
  std::vector<Ring> rings;  // empty: united into another
};

class Uniter {
 public:
  Uniter(const VolumeMesh& m, const std::vector<char>& on_sharp_edge)
      : m_(m), on_sharp_edge_(on_sharp_edge), rows_(faces_of_cells(m)) {}

  CellWalls work(int cell, const std::vector<int>& boundary_of) const {
    CellWalls walls;
    std::vector<PolygonMeasure> others;
    for (int r = rows_.start[at(cell)]; r < rows_.start[at(cell) + 1]; ++r) {
      const int f = rows_.face[at(r)];
      if (f >= m_.interior_faces() &&
          m_.boundaries[at(boundary_of[at(f - m_.interior_faces())])].kind == BoundaryKind::part) {
        walls.faces.push_back(f), walls.rings.push_back(ring_of(m_, f));
        continue;
      }
      others.push_back(measure(ring_of(m_, f)));
      if (m_.cell_below[at(f)] != cell) others.back().area = -others.back().area;
    }
    if (walls.faces.size() < 2) return {};
    const auto boundary = [&](std::size_t i) {
      return boundary_of[at(walls.faces[i] - m_.interior_faces())];
    };
    const double before = soundness(walls.rings, others);
    for (bool again = true; again;) {
      again = false;
      double best = agree;
      std::size_t bi = 0, bj = 0;
      Ring best_ring;
      for (std::size_t i = 0; i < walls.rings.size(); ++i)
        for (std::size_t j = i + 1; j < walls.rings.size(); ++j) {
          if (walls.rings[i].empty() || walls.rings[j].empty() || boundary(i) != boundary(j))
            continue;
          const Vec3 a = measure(walls.rings[i]).area, b = measure(walls.rings[j]).area,
                     mean = unit(a + b);
          const double cosine = std::min(dot(unit(a), mean), dot(unit(b), mean));
          if (cosine <= best ||
              (dot(unit(a), unit(b)) < bent && share_sharp_edge(walls.rings[i], walls.rings[j])))
            continue;
          Ring ring = united(walls.rings[i], walls.rings[j]);
          if (ring.empty() || !star_shaped(ring)) continue;
          best = cosine, bi = i, bj = j, best_ring = std::move(ring);
        }
      if (best_ring.empty()) break;
      auto tried = walls.rings;
      tried[bi] = best_ring, tried[bj].clear();
      if (soundness(tried, others) < std::min(before, least_soundness)) break;
      walls.rings = std::move(tried);
      again = true;
    }
    return walls;
  }

 private:
  bool share_sharp_edge(const Ring& a, const Ring& b) const {
    for (std::size_t i = 0; i < a.size(); ++i) {
      const int from = a[i], to = a[(i + 1) % a.size()];
      if (on_sharp_edge_[at(from)] && on_sharp_edge_[at(to)] && has_edge(b, to, from)) return true;
    }
    return false;
  }
  PolygonMeasure measure(const Ring& ring) const {
    return measure_polygon(m_.points, ring.data(), static_cast<int>(ring.size()));
  }
  /// Every edge is well in view from the centre: a flat layer cell on the face is then sound.
  bool star_shaped(const Ring& ring) const {
    // height of the centre over an edge's line, over the root of the area
    constexpr double least_view = 0.12;
    const PolygonMeasure p = measure(ring);
    const Vec3 n = unit(p.area);
    const double least = least_view * std::sqrt(norm(p.area));
    for (std::size_t k = 0; k < ring.size(); ++k) {
      const Vec3 &a = m_.points[at(ring[k])], &b = m_.points[at(ring[(k + 1) % ring.size()])];
      const double length = norm(b - a);
      if (length > 1e-3 * least && dot(n, cross(a - p.centre, b - p.centre)) < least * length)
        return false;
    }
    return true;
  }
  double soundness(const std::vector<Ring>& rings,
                   const std::vector<PolygonMeasure>& others) const {
    std::vector<PolygonMeasure> all = others;
    for (const Ring& r : rings)
      if (!r.empty()) all.push_back(measure(r));
    return all.size() < 4 || all.size() > most_faces
               ? -1
               : soundness_of(all.data(), static_cast<int>(all.size()));
  }
  const VolumeMesh& m_;
  const std::vector<char>& on_sharp_edge_;
  CellFaces rows_;
};

}  // namespace

int unite_wall_faces(VolumeMesh& m, const std::vector<char>& on_sharp_edge) {
  std::vector<int> boundary_of(at(m.faces() - m.interior_faces())), wall_faces(at(m.cells), 0),
      cells;
  for (std::size_t p = 0; p < m.boundaries.size(); ++p)
    for (int f = m.boundaries[p].first; f < m.boundaries[p].first + m.boundaries[p].count; ++f) {
      boundary_of[at(f - m.interior_faces())] = static_cast<int>(p);
      if (m.boundaries[p].kind == BoundaryKind::part && ++wall_faces[at(m.cell_below[at(f)])] == 2)
        cells.push_back(m.cell_below[at(f)]);
    }
  const Uniter uniter(m, on_sharp_edge);
  std::vector<CellWalls> walls(cells.size());
  parallel_for(
      cells.size(), [&](std::size_t i) { walls[i] = uniter.work(cells[i], boundary_of); }, 64);

  std::vector<const Ring*> changed(at(m.faces() - m.interior_faces()), nullptr);
  for (const CellWalls& w : walls)
    for (std::size_t i = 0; i < w.faces.size(); ++i)
      changed[at(w.faces[i] - m.interior_faces())] = &w.rings[i];
  int vanished = 0;
  VolumeMesh out;
  out.cells = m.cells, out.points = std::move(m.points), out.cell_above = std::move(m.cell_above),
  out.boundaries = m.boundaries;
  out.face_start = {0};
  for (int f = 0; f < static_cast<int>(m.cell_below.size()); ++f) {
    const int outer = f - static_cast<int>(out.cell_above.size());
    const Ring* ring = outer >= 0 ? changed[at(outer)] : nullptr;
    if (ring && ring->empty()) {
      --out.boundaries[at(boundary_of[at(outer)])].count;
      ++vanished;
      continue;
    }
    if (ring)
      out.face_points.insert(out.face_points.end(), ring->begin(), ring->end());
    else
      out.face_points.insert(out.face_points.end(), m.face_points.begin() + m.face_start[at(f)],
                             m.face_points.begin() + m.face_start[at(f) + 1]);
    out.face_start.push_back(static_cast<int>(out.face_points.size()));
    out.cell_below.push_back(m.cell_below[at(f)]);
  }
  int next = static_cast<int>(out.cell_above.size());
  for (Boundary& p : out.boundaries) p.first = next, next += p.count;
  m = std::move(out);
  return vanished;
}

}  // namespace dunefield
