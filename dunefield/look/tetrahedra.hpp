// A cell as tetrahedra of its middle, its faces' middles and their edges: where a point lies in
// them, and what linear values there are.
#pragma once

#include <array>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Mean of a face's corners, of places as of values.
template <class T>
T face_mean(const VolumeMesh& m, int face, const std::vector<T>& at_points) {
  T sum{};
  const int first = m.face_start[at(face)], last = m.face_start[at(face) + 1];
  for (int k = first; k < last; ++k) sum += at_points[at(m.face_points[at(k)])];
  return sum * (1.0 / (last - first));
}

/// Where a point lies in a cell.
struct InCell {
  int cell = -1, face = -1;  ///< face: of the tetrahedron; where the point is not in the cell, that
                             ///< through which the way from the middle leaves it
  int a = 0, b = 0;          ///< the edge's ends
  std::array<double, 4> share{};  ///< of cell middle, face middle, a, b
  bool inside = false;
};
InCell place_in_cell(const VolumeMesh& mesh, const CellFaces& rows, int cell, const Vec3& p);

/// From a cell near it to the cell that holds the point. `inside` is false where that is none: the
/// face is then one of a boundary, or the walk got lost.
InCell walk_to(const VolumeMesh& mesh, const CellFaces& rows, int cell, const Vec3& p);

template <class T>
T value_at(const VolumeMesh& m, const InCell& in, const std::vector<T>& cells,
           const std::vector<T>& points) {
  return cells[at(in.cell)] * in.share[0] + face_mean(m, in.face, points) * in.share[1] +
         points[at(in.a)] * in.share[2] + points[at(in.b)] * in.share[3];
}

}  // namespace dunefield
