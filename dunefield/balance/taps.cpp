#include <dunefield/balance/taps.hpp>

#include <dunefield/geometry/nearest_tree.hpp>
#include <dunefield/mesh/wall_triangles.hpp>

namespace dunefield {
namespace {

std::size_t at(int i) { return static_cast<std::size_t>(i); }

/// The side of the centre plane that is meshed.
Vec3 meshed_side(const Vec3& p, bool half) { return half ? Vec3{p.x, std::abs(p.y), p.z} : p; }

const std::string& part_of(const VolumeMesh& m, int face) {
  for (const Patch& p : m.patches)
    if (face >= p.first && face < p.first + p.count) return p.name;
  return m.patches.front().name;
}

/// Finds cells by place: the one with the nearest centre, and whether the point lies within it or a neighbour.
class CellFinder {
 public:
  explicit CellFinder(const VolumeMesh& m) : mesh_(m), rows_(faces_of_cells(m)), tree_(centres(m)) {}

  int nearest(const Vec3& p) const { return static_cast<int>(tree_.nearest(p, 1e6).triangle); }
  int beyond(int face, int cell) const { return mesh_.cell_below[at(face)] == cell ? mesh_.cell_above[at(face)] : mesh_.cell_below[at(face)]; }
  template <class Visit>
  void for_faces(int cell, const Visit& visit) const {
    for (int r = rows_.start[at(cell)]; r < rows_.start[at(cell) + 1]; ++r) visit(rows_.face[at(r)]);
  }
  /// Before all faces of the cell, but for a little.
  bool holds(int cell, const Vec3& p) const {
    bool in = true;
    for_faces(cell, [&](int f) {
      const Vec3 out = mesh_.cell_below[at(f)] == cell ? mesh_.face_area[at(f)] : -mesh_.face_area[at(f)];
      const double slack = 1e-3 * std::sqrt(norm(out));
      in = in && dot(p - mesh_.face_centre[at(f)], out) <= slack * norm(out);
    });
    return in;
  }

 private:
  /// Each centre as a triangle without size.
  static Surface centres(const VolumeMesh& m) {
    Surface s;
    s.part_names = {"cells"};
    s.points = m.cell_centre;
    for (int c = 0; c < m.cells; ++c) s.triangles.push_back({c, c, c});
    s.part_of.assign(s.triangles.size(), 0);
    return s;
  }
  const VolumeMesh& mesh_;
  CellFaces rows_;
  NearestTree tree_;
};

/// The cell that holds the point, found from the nearest centre on through its neighbours' neighbours; -1: none.
int cell_at(const CellFinder& cells, const VolumeMesh& m, const Vec3& p) {
  std::vector<int> tried = {cells.nearest(p)};
  for (std::size_t i = 0, ring_end = 1, ring = 0; i < tried.size() && ring < 3; ++i) {
    if (i == ring_end) ring_end = tried.size(), ++ring;
    if (cells.holds(tried[i], p)) return tried[i];
    cells.for_faces(tried[i], [&](int f) {
      if (f >= m.interior_faces()) return;
      const int other = cells.beyond(f, tried[i]);
      if (std::find(tried.begin(), tried.end(), other) == tried.end()) tried.push_back(other);
    });
  }
  return -1;
}

}  // namespace

Rake rake_grid(const std::string& name, const Vec3& from, const Vec3& to, const Vec3& far_side, int along, int across) {
  Rake rake{name, {}};
  for (int j = 0; j < across; ++j)
    for (int i = 0; i < along; ++i) {
      const double a = along > 1 ? static_cast<double>(i) / (along - 1) : 0, b = across > 1 ? static_cast<double>(j) / (across - 1) : 0;
      rake.points.push_back(from + (to - from) * a + (far_side - from) * b);
    }
  return rake;
}

std::vector<TapReading> read_taps(const FlowReadings& field, const std::vector<Tap>& taps, const ReferenceValues& reference) {
  std::vector<TapReading> readings;
  if (taps.empty()) return readings;
  const VolumeMesh& m = field.mesh;
  const WallTriangles walls = wall_triangles(m, [](const Patch& p) { return p.kind == PatchKind::part; });
  const NearestTree tree(walls.surface);
  for (const Tap& tap : taps) {
    const auto found = tree.nearest(meshed_side(tap.place, field.half), 1e6);
    if (found.triangle < 0) continue;
    const int face = walls.face_of[at(static_cast<int>(found.triangle))];
    TapReading r{tap.name, part_of(m, face), found.point, found.distance, field.loads[at(face - m.interior_faces())].pressure_at - field.undisturbed, 0};
    if (field.half && tap.place.y < 0) r.place.y = -r.place.y;
    r.cp = r.pressure / reference.dynamic_pressure();
    readings.push_back(r);
  }
  return readings;
}

std::vector<RakeReading> read_rakes(const FlowReadings& field, const std::vector<Rake>& rakes, const ReferenceValues& reference) {
  std::vector<RakeReading> readings;
  if (rakes.empty()) return readings;
  const VolumeMesh& m = field.mesh;
  const CellFinder cells(m);
  for (const Rake& rake : rakes)
    for (const Vec3& place : rake.points) {
      RakeReading r{rake.name, place, {}, 0, 0, 0, false};
      const Vec3 p = meshed_side(place, field.half);
      if (const int cell = cell_at(cells, m, p); cell >= 0) {
        r.air = true;
        double weight = 0, pressure = 0;
        const auto take = [&](int c) {
          const double w = 1 / (norm2(m.cell_centre[at(c)] - p) + 1e-12 * std::cbrt(m.cell_volume[at(c)]));
          weight += w, pressure += w * field.pressure[at(c)], r.velocity += field.velocity[at(c)] * w;
        };
        take(cell);
        cells.for_faces(cell, [&](int f) {
          if (f < m.interior_faces()) take(cells.beyond(f, cell));
        });
        r.velocity = r.velocity / weight;
        if (field.half && place.y < 0) r.velocity.y = -r.velocity.y;
        r.pressure = reference.density * pressure / weight - field.undisturbed;
        r.cp = r.pressure / reference.dynamic_pressure();
        r.total_cp = r.cp + norm2(r.velocity) / (reference.speed * reference.speed);
      }
      readings.push_back(r);
    }
  return readings;
}

}  // namespace dunefield
