#include <dunefield/look/iso_surface.hpp>

#include <algorithm>
#include <unordered_map>

#include <dunefield/look/tetrahedra.hpp>

namespace dunefield {
namespace {

/// Corners of the tetrahedra: points, middles of faces, middles of cells, numbered one after the
/// other.
class Marcher {
 public:
  Marcher(const FlowView& view, const std::vector<double>& cells, double level)
      : m_(view.mesh()),
        rows_(view.rows()),
        points_(view.weights().of(cells)),
        level_(level),
        first_face_(static_cast<std::int64_t>(m_.points.size())),
        first_cell_(first_face_ + m_.faces()) {}

  void cell(int c) {
    const Corner middle = middle_of(c);
    for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1]; ++r) {
      const int f = rows_.face[at(r)], first = m_.face_start[at(f)],
                n = m_.face_start[at(f) + 1] - first;
      const Corner face{first_face_ + f, face_mean(m_, f, m_.points), face_mean(m_, f, points_)};
      for (int k = 0; k < n; ++k)
        tetrahedron({middle, face, point(m_.face_points[at(first + k)]),
                     point(m_.face_points[at(first + (k + 1) % n)])});
    }
  }
  /// Whether the level passes through the cell.
  bool crossed(int c) const {
    const bool above =
        points_[at(m_.face_points[at(m_.face_start[at(rows_.face[at(rows_.start[at(c)])])])])] >
        level_;
    for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1]; ++r) {
      const int f = rows_.face[at(r)];
      for (int k = m_.face_start[at(f)]; k < m_.face_start[at(f) + 1]; ++k)
        if ((points_[at(m_.face_points[at(k)])] > level_) != above) return true;
    }
    return false;
  }
  Sheet take() {
    sheet_.normals.assign(sheet_.points.size(), {});
    for (const auto& t : sheet_.triangles) {
      const Vec3 area = cross(sheet_.points[at(t[1])] - sheet_.points[at(t[0])],
                              sheet_.points[at(t[2])] - sheet_.points[at(t[0])]);
      for (const int p : t) sheet_.normals[at(p)] += area;
    }
    for (Vec3& n : sheet_.normals) n = unit(n);
    return std::move(sheet_);
  }

 private:
  struct Corner {
    std::int64_t number;
    Vec3 place;
    double value;
  };
  struct Key {
    std::int64_t a, b;
    bool operator==(const Key&) const = default;
  };
  struct Hash {
    std::size_t operator()(const Key& k) const {
      return static_cast<std::size_t>(k.a) * 0x9e3779b97f4a7c15u ^
             static_cast<std::size_t>(k.b) * 0xc2b2ae3d27d4eb4fu;
    }
  };
  /// The mean of the faces' middles, with that of their values: smoother than the cell's own, and
  /// as exact.
  Corner middle_of(int c) const {
    Corner out{first_cell_ + c, {}, 0};
    const double share = 1.0 / (rows_.start[at(c) + 1] - rows_.start[at(c)]);
    for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1]; ++r) {
      out.place += face_mean(m_, rows_.face[at(r)], m_.points) * share;
      out.value += face_mean(m_, rows_.face[at(r)], points_) * share;
    }
    return out;
  }
  Corner point(int p) const { return {p, m_.points[at(p)], points_[at(p)]}; }

  int crossing(const Corner& a, const Corner& b) {
    const Key key{std::min(a.number, b.number), std::max(a.number, b.number)};
    const auto [it, fresh] = known_.try_emplace(key, static_cast<int>(sheet_.points.size()));
    if (fresh) {
      // In the order of the numbers, so that both sides of a face find the same place.
      const Corner &p = a.number < b.number ? a : b, &q = a.number < b.number ? b : a;
      sheet_.points.push_back(p.place +
                              (q.place - p.place) * ((level_ - p.value) / (q.value - p.value)));
    }
    return it->second;
  }

  void tetrahedron(const std::array<Corner, 4>& t) {
    std::array<int, 4> over{}, under{};
    std::size_t above = 0, below = 0;
    for (int k = 0; k < 4; ++k) (t[at(k)].value > level_ ? over[above++] : under[below++]) = k;
    if (above == 0 || below == 0) return;
    Vec3 down;  // from larger to smaller values
    for (std::size_t k = 0; k < above; ++k)
      down -= t[at(over[k])].place / static_cast<double>(above);
    for (std::size_t k = 0; k < below; ++k)
      down += t[at(under[k])].place / static_cast<double>(below);
    const auto edge = [&](int a, int b) { return crossing(t[at(a)], t[at(b)]); };
    if (above == 1)
      triangle(edge(over[0], under[0]), edge(over[0], under[1]), edge(over[0], under[2]), down);
    else if (below == 1)
      triangle(edge(over[0], under[0]), edge(over[1], under[0]), edge(over[2], under[0]), down);
    else {
      const int a = edge(over[0], under[0]), b = edge(over[0], under[1]),
                c = edge(over[1], under[1]), d = edge(over[1], under[0]);
      triangle(a, b, c, down), triangle(a, c, d, down);
    }
  }
  void triangle(int a, int b, int c, const Vec3& down) {
    const Vec3 area = cross(sheet_.points[at(b)] - sheet_.points[at(a)],
                            sheet_.points[at(c)] - sheet_.points[at(a)]);
    if (dot(area, down) < 0) std::swap(b, c);
    if (a != b && b != c && a != c) sheet_.triangles.push_back({a, b, c});
  }

  const VolumeMesh& m_;
  const CellFaces& rows_;
  std::vector<double> points_;
  double level_;
  std::int64_t first_face_, first_cell_;
  std::unordered_map<Key, int, Hash> known_;
  Sheet sheet_;
};

void append(Sheet& to, Sheet from) {
  const int shift = static_cast<int>(to.points.size());
  to.points.insert(to.points.end(), from.points.begin(), from.points.end());
  to.normals.insert(to.normals.end(), from.normals.begin(), from.normals.end());
  for (auto t : from.triangles) to.triangles.push_back({t[0] + shift, t[1] + shift, t[2] + shift});
}

Sheet mirrored(Sheet s) {
  for (Vec3& p : s.points) p = in_mirror(p);
  for (Vec3& n : s.normals) n = in_mirror(n);
  for (auto& t : s.triangles) std::swap(t[1], t[2]);
  return s;
}

}  // namespace

Sheet iso_surface_of(const FlowView& view, const std::vector<double>& cells, double level,
                     const Box& within) {
  Marcher marcher(view, cells, level);
  const VolumeMesh& m = view.mesh();
  for (int c = 0; c < m.cells; ++c)
    if ((within.empty() || within.contains(m.cell_centre[at(c)])) && marcher.crossed(c))
      marcher.cell(c);
  return marcher.take();
}

Sheet iso_surface(const FlowView& view, const std::string& quantity, double level,
                  const Box& within) {
  const auto in_the_mirror = [](Box b) {
    if (!b.empty()) std::swap(b.lo.y, b.hi.y), b.lo.y = -b.lo.y, b.hi.y = -b.hi.y;
    return b;
  };
  Sheet s = iso_surface_of(view, view.in_air(quantity), level, within);
  if (view.half())
    append(s, mirrored(iso_surface_of(view, view.in_air(quantity, Side::mirrored), level,
                                      in_the_mirror(within))));
  return s;
}

}  // namespace dunefield
