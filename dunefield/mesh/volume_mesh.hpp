// A mesh of closed polyhedra for a finite-volume method.
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include <dunefield/base/vec.hpp>

namespace dunefield {

/// What a set of boundary faces is, before any flow condition is put on it.
enum class BoundaryKind : std::uint8_t { inflow, outflow, side, roof, road, centre_plane, part };

struct Boundary {
  std::string name;
  BoundaryKind kind = BoundaryKind::part;
  int first = 0, count = 0;  ///< range of faces
};

/// Interior faces come first, ordered by their lower cell; boundary faces follow, contiguous by
/// boundary. A face's points run so that its area vector points out of `cell_below` (right-hand
/// rule).
struct VolumeMesh {
  std::vector<Vec3> points;
  std::vector<int> face_start;  ///< faces + 1 entries into `face_points`
  std::vector<int> face_points;
  std::vector<int> cell_below;  ///< per face: the cell the area vector leaves
  std::vector<int> cell_above;  ///< per interior face: the cell it enters
  std::vector<Boundary> boundaries;
  int cells = 0;

  // Derived once by `derive`.
  std::vector<Vec3> face_area;  ///< area vectors, m2
  std::vector<Vec3> face_centre;
  std::vector<Vec3> cell_centre;
  std::vector<double> cell_volume;

  int faces() const { return static_cast<int>(cell_below.size()); }
  int interior_faces() const { return static_cast<int>(cell_above.size()); }
  /// Fills the derived arrays. Faces are taken as fans of triangles about their mean point, so that
  /// volumes add up exactly.
  void derive();
  /// Puts the boundary faces into another order: `order` tells for each place which face comes
  /// there. Derived arrays go along.
  void reorder_boundary(const std::vector<int>& order, std::vector<Boundary> new_boundaries);
  /// Second moment of a warped face: sum over its triangles of s (c - face_centre)^T. With it the
  /// integral of a linear function over the face is exact: f S + warp grad f.
  Mat3 face_warp(int face) const;
};

/// Area vector and centre of a polygon as a fan of triangles about its mean point.
struct PolygonMeasure {
  Vec3 area, centre, mean;
};
PolygonMeasure measure_polygon(const std::vector<Vec3>& points, const int* corner, int count);

/// The faces of each cell, as compressed rows.
struct CellFaces {
  std::vector<int> start, face;
};
CellFaces faces_of_cells(const VolumeMesh& mesh);

/// Volume and centre of gravity of a cell, as `VolumeMesh::derive` fills them in; face centres must
/// be known.
struct CellMeasure {
  Vec3 centre;
  double volume = 0;
};
CellMeasure measure_cell(const VolumeMesh& mesh, const CellFaces& faces, int cell);

/// A box of nx x ny x nz hexahedra whose points are moved by `map` (from the unit cube); boundaries
/// are the six sides: "x-", "x+", "y-", "y+", "z-", "z+". With `ring` the x- and x+ sides are
/// joined (a closed ring).
template <class Map>
VolumeMesh structured_mesh(int nx, int ny, int nz, const Map& map, bool ring = false);
VolumeMesh structured_mesh_of_points(int nx, int ny, int nz, std::vector<Vec3> points, bool ring);

template <class Map>
VolumeMesh structured_mesh(int nx, int ny, int nz, const Map& map, bool ring) {
  std::vector<Vec3> points;
  for (int k = 0; k <= nz; ++k)
    for (int j = 0; j <= ny; ++j)
      for (int i = 0; i <= nx; ++i)
        points.push_back(map(Vec3{double(i) / nx, double(j) / ny, double(k) / nz}));
  return structured_mesh_of_points(nx, ny, nz, std::move(points), ring);
}

}  // namespace dunefield
