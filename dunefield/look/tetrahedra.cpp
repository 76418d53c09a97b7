#include <dunefield/look/tetrahedra.hpp>

#include <cmath>

namespace dunefield {

InCell place_in_cell(const VolumeMesh& m, const CellFaces& rows, int cell, const Vec3& p) {
  InCell best;
  best.cell = cell;
  double best_least = -1e300;
  const Vec3 c = m.cell_centre[at(cell)], d = p - c;
  for (int r = rows.start[at(cell)]; r < rows.start[at(cell) + 1]; ++r) {
    const int f = rows.face[at(r)], first = m.face_start[at(f)],
              n = m.face_start[at(f) + 1] - first;
    const Vec3 middle = face_mean(m, f, m.points) - c;
    for (int k = 0; k < n; ++k) {
      const int a = m.face_points[at(first + k)], b = m.face_points[at(first + (k + 1) % n)];
      const Vec3 va = m.points[at(a)] - c, vb = m.points[at(b)] - c;
      const Vec3 ab = cross(va, vb);
      const double volume = dot(middle, ab);
      if (std::abs(volume) < 1e-300) continue;
      // Shares in the cone from the middle through the triangle: of its three corners.
      const double face = dot(d, ab) / volume, sa = dot(d, cross(vb, middle)) / volume,
                   sb = dot(d, cross(middle, va)) / volume;
      // The cone that holds the point, or the least wrong one.
      const double least = std::min({face, sa, sb});
      if (least > best_least) {
        best_least = least;
        best.face = f, best.a = a, best.b = b;
        best.share = {1 - face - sa - sb, face, sa, sb};
      }
      constexpr double surely = 1e-12;
      if (least >= surely) {
        best.inside = best.share[0] >= -1e-9;
        return best;
      }
    }
  }
  best.inside = best.face >= 0 && best.share[0] >= -1e-9 && best_least > -1e-6;
  return best;
}

InCell walk_to(const VolumeMesh& m, const CellFaces& rows, int cell, const Vec3& p) {
  InCell in;
  constexpr int farthest = 200;
  int before = -1, again = -1;
  for (int step = 0; step < farthest; ++step) {
    in = place_in_cell(m, rows, cell, p);
    if (in.inside || in.face < 0 || in.face >= m.interior_faces()) return in;
    const int next =
        m.cell_below[at(in.face)] == cell ? m.cell_above[at(in.face)] : m.cell_below[at(in.face)];
    if (next == again) {  // on the border of two: either will do
      in.inside = in.share[0] > -1e-3;
      return in;
    }
    again = before, before = cell, cell = next;
  }
  return in;
}

}  // namespace dunefield
