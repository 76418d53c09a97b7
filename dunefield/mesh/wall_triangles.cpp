#include <dunefield/mesh/wall_triangles.hpp>

#include <utility>

#include <dunefield/base/index.hpp>

namespace dunefield {

WallTriangles wall_triangles(const VolumeMesh& m,
                             const std::function<bool(const Boundary&)>& wanted) {
  WallTriangles w;
  w.surface.points = m.points;
  for (const Boundary& p : m.boundaries) {
    if (!wanted(p)) continue;
    const int part = static_cast<int>(w.surface.part_names.size());
    w.surface.part_names.push_back(p.name);
    for (int f = p.first; f < p.first + p.count; ++f) {
      const int* corner = &m.face_points[at(m.face_start[at(f)])];
      const int n = m.face_start[at(f) + 1] - m.face_start[at(f)];
      for (int k = 1; k + 1 < n; ++k) {
        w.surface.triangles.push_back({corner[0], corner[k], corner[k + 1]});
        w.surface.part_of.push_back(part);
        w.face_of.push_back(f);
      }
    }
  }
  return w;
}

WallTriangles vehicle_triangles(const VolumeMesh& m, bool whole) {
  WallTriangles w =
      wall_triangles(m, [](const Boundary& p) { return p.kind == BoundaryKind::part; });
  Surface& s = w.surface;
  const std::size_t triangles = s.size();
  const int points = static_cast<int>(s.points.size());
  for (std::size_t t = 0; t < triangles; ++t) {
    const auto [a, b, c] = s.triangles[t];
    s.triangles[t] = {a, c, b};
    if (!whole) continue;
    s.triangles.push_back({a + points, b + points, c + points});
    s.part_of.push_back(s.part_of[t]);
    w.face_of.push_back(w.face_of[t]);
  }
  for (int i = 0; whole && i < points; ++i) {
    const Vec3 p = s.points[at(i)];
    s.points.push_back({p.x, -p.y, p.z});
  }
  return w;
}

}  // namespace dunefield
