// Finds the cells of a mesh by place.
#pragma once

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Thread-safe after construction. The mesh must outlive it.
class CellFinder {
 public:
  explicit CellFinder(const VolumeMesh& mesh);

  /// The cell with the nearest centre.
  int nearest(const Vec3& p) const { return tree_.nearest(p, 1e6).triangle; }
  /// The cell that holds the point, found from the nearest centre on through its neighbours'
  /// neighbours; -1: none.
  int holding(const Vec3& p) const;
  /// A mean of `cell` and its neighbours, weighted by 1 / distance^2 from `p`: `take(cell, weight)`
  /// is called for each, the weights add up to one.
  template <class Take>
  void weigh(int cell, const Vec3& p, const Take& take) const {
    const auto weight = [&](int c) {
      return 1 /
             (norm2(mesh_.cell_centre[at(c)] - p) + 1e-12 * std::cbrt(mesh_.cell_volume[at(c)]));
    };
    double all = weight(cell);
    for_neighbours(cell, [&](int c) { all += weight(c); });
    take(cell, weight(cell) / all);
    for_neighbours(cell, [&](int c) { take(c, weight(c) / all); });
  }

 private:
  template <class Visit>
  void for_faces(int cell, const Visit& visit) const {
    for (int r = rows_.start[at(cell)]; r < rows_.start[at(cell) + 1]; ++r)
      visit(rows_.face[at(r)]);
  }
  template <class Visit>
  void for_neighbours(int cell, const Visit& visit) const {
    for_faces(cell, [&](int f) {
      if (f < mesh_.interior_faces())
        visit(mesh_.cell_below[at(f)] == cell ? mesh_.cell_above[at(f)] : mesh_.cell_below[at(f)]);
    });
  }
  bool holds(int cell, const Vec3& p) const;

  const VolumeMesh& mesh_;
  CellFaces rows_;
  NearestTree tree_;
};

}  // namespace dunefield
