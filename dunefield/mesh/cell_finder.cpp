#include <dunefield/mesh/cell_finder.hpp>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

/// Each centre as a triangle without size.
Surface centres(const VolumeMesh& m) {
  Surface s;
  s.part_names = {"cells"};
  s.points = m.cell_centre;
  for (int c = 0; c < m.cells; ++c) s.triangles.push_back({c, c, c});
  s.part_of.assign(s.triangles.size(), 0);
  return s;
}

}  // namespace

CellFinder::CellFinder(const VolumeMesh& mesh)
    : mesh_(mesh), rows_(faces_of_cells(mesh)), tree_(centres(mesh)) {}

/// Before all faces of the cell, but for a little.
bool CellFinder::holds(int cell, const Vec3& p) const {
  bool in = true;
  for_faces(cell, [&](int f) {
    const Vec3 out =
        mesh_.cell_below[at(f)] == cell ? mesh_.face_area[at(f)] : -mesh_.face_area[at(f)];
    const double slack = 1e-3 * std::sqrt(norm(out));
    in = in && dot(p - mesh_.face_centre[at(f)], out) <= slack * norm(out);
  });
  return in;
}

int CellFinder::holding(const Vec3& p) const {
  std::vector<int> tried = {nearest(p)};
  for (std::size_t i = 0, ring_end = 1, ring = 0; i < tried.size() && ring < 3; ++i) {
    if (i == ring_end) ring_end = tried.size(), ++ring;
    if (holds(tried[i], p)) return tried[i];
    for_neighbours(tried[i], [&](int other) {
      if (std::find(tried.begin(), tried.end(), other) == tried.end()) tried.push_back(other);
    });
  }
  return -1;
}

}  // namespace dunefield
