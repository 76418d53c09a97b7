#include <dunefield/mesh/wall_triangles.hpp>

#include <dunefield/base/index.hpp>

namespace dunefield {

WallTriangles wall_triangles(const VolumeMesh& m,
                             const std::function<bool(const Boundary&)>& wanted) {
  WallTriangles w;
  w.surface.points = m.points;
  w.surface.part_names = {"walls"};
  for (const Boundary& p : m.boundaries) {
    if (!wanted(p)) continue;
    for (int f = p.first; f < p.first + p.count; ++f) {
      const int* corner = &m.face_points[at(m.face_start[at(f)])];
      const int n = m.face_start[at(f) + 1] - m.face_start[at(f)];
      for (int k = 1; k + 1 < n; ++k) {
        w.surface.triangles.push_back({corner[0], corner[k], corner[k + 1]});
        w.surface.part_of.push_back(0);
        w.face_of.push_back(f);
      }
    }
  }
  return w;
}

}  // namespace dunefield
