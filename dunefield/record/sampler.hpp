// Values of a field anywhere in the air: at points, along lines, over planes. Linear fields come
// out exactly.
#pragma once

#include <mutex>
#include <optional>
#include <vector>

#include <dunefield/mesh/cell_finder.hpp>
#include <dunefield/mesh/section.hpp>

namespace dunefield {

namespace sampler_detail {
inline double along(const Vec3& gradient, const Vec3& way) { return dot(gradient, way); }
inline Vec3 along(const Mat3& gradient, const Vec3& way) { return gradient * way; }
}  // namespace sampler_detail

/// Thread-safe. The mesh must outlive it.
class Sampler {
 public:
  explicit Sampler(const VolumeMesh& mesh) : mesh_(mesh), rows_(faces_of_cells(mesh)) {}

  /// Least-squares gradient over a cell's neighbours, the nearer the heavier.
  Vec3 gradient(int cell, const std::vector<double>& values) const;
  Mat3 gradient(int cell, const std::vector<Vec3>& values) const;

  /// In a cell, carried on from its centre.
  template <class T>
  T value_in(int cell, const std::vector<T>& values, const Vec3& x) const {
    return values[at(cell)] +
           sampler_detail::along(gradient(cell, values), x - mesh_.cell_centre[at(cell)]);
  }
  /// The cell that holds a point; none within the vehicle or outside the tunnel.
  std::optional<int> cell_at(const Vec3& x) const;
  /// At a point of a cell: what the cell and its neighbours say of it, the nearer the heavier
  /// (Shepard 1968), so that values hardly jump from cell to cell.
  template <class T>
  T value_at(int cell, const std::vector<T>& values, const Vec3& x) const {
    T sum{};
    finder().weigh(cell, x, [&](int c, double weight) { sum += value_in(c, values, x) * weight; });
    return sum;
  }

  /// A cell's part of a plane.
  struct Piece {
    int cell;
    double area;  ///< m2
    Vec3 middle;
    std::vector<Vec3> outline;
  };
  /// Calls `visit(piece)` for each cell that the plane cuts within a rectangle about its point.
  /// @param width, height of it, level and upward; 0: as far as there is air
  template <class Visit>
  void for_pieces(const Plane& plane, double width, double height, const Visit& visit) const {
    const PlaneAxes axes(plane.normal);
    for (const int c : cut_cells(mesh_, plane)) {
      Piece piece = piece_of(c, plane, axes, width, height);
      if (piece.area > 0) visit(piece);
    }
  }

 private:
  const CellFinder& finder() const;
  Piece piece_of(int cell, const Plane& plane, const PlaneAxes& axes, double width,
                 double height) const;
  template <class T, class G>
  G fitted(int cell, const std::vector<T>& values) const;

  const VolumeMesh& mesh_;
  CellFaces rows_;
  mutable std::once_flag finder_wanted_;
  mutable std::optional<CellFinder> finder_;  ///< made when first asked for
};

}  // namespace dunefield
