// The cells that a plane cuts, exactly, with values that go on continuously from cell to cell. Of a
// half model both sides.
#pragma once

#include <dunefield/look/flow_view.hpp>
#include <dunefield/look/scene.hpp>

namespace dunefield {

class PlaneCut {
 public:
  /// A plane on the centre plane of a half model is taken just beside it. The view must outlive it.
  PlaneCut(const FlowView& view, Plane plane);

  const Plane& plane() const { return plane_; }
  bool empty() const { return cell_.empty(); }
  /// Triangles with values of a quantity: those of points on the cells' edges, or, as cells, one
  /// value for all of a cell.
  Sheet sheet(const std::string& quantity, bool as_cells = false) const;
  /// The same with values of one's own, for each point of sheet(...).
  Sheet sheet_of(std::vector<double> values) const;
  /// Velocity at each point of sheet(...) (not as cells).
  std::vector<Vec3> velocity() const;
  /// Edges of the cells in the plane.
  Bundle outlines() const;
  /// Area, and the integral of a quantity over it.
  double area() const;
  double integral(const std::string& quantity) const;

 private:
  struct Corner {
    int a = 0, b = 0;  ///< ends of the edge, points of the mesh
    double share = 0;  ///< of the way from a to b
  };
  void cut(Plane plane, Side side);
  template <class T, class Of>
  std::vector<T> at_corners(const Of& of) const;
  template <class T>
  void with_middles(std::vector<T>& values) const;

  const FlowView& view_;
  Plane plane_;
  std::vector<Vec3> points_;
  std::vector<Corner> corners_;
  std::size_t mirrored_from_ = 0;     ///< first of the corners on the other side
  std::vector<int> start_, polygon_;  ///< corners of each cell's cut, in order round
  std::vector<int> cell_;
  std::size_t mirrored_cells_from_ = 0;
  mutable std::optional<PointWeights> weights_[2];
};

}  // namespace dunefield
