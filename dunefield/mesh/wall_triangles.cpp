#include <dunefield/mesh/wall_triangles.hpp>

namespace dunefield {

WallTriangles wall_triangles(const VolumeMesh& m, const std::function<bool(const Patch&)>& wanted) {
  WallTriangles w;
  w.surface.points = m.points;
  w.surface.part_names = {"walls"};
  for (const Patch& p : m.patches) {
    if (!wanted(p)) continue;
    for (int f = p.first; f < p.first + p.count; ++f) {
      const int* corner =
          &m.face_points[static_cast<std::size_t>(m.face_start[static_cast<std::size_t>(f)])];
      const int n =
          m.face_start[static_cast<std::size_t>(f) + 1] - m.face_start[static_cast<std::size_t>(f)];
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
