// The mesh with its layers: columns stand behind the cell they grew from, from the core to the
// wall.
#pragma once

#include <algorithm>
#include <cstdint>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/layers/layer_plan.hpp>

namespace dunefield {

/// Point of a column in the new mesh, and its place.
class Columns {
 public:
  Columns(const LayerPlan& plan, std::vector<Vec3> core) : plan_(plan), points_(std::move(core)) {
    first_.resize(plan.wall_points().size());
    for (std::size_t i = 0; i < first_.size(); ++i) {
      const WallPoint& w = plan.wall_points()[i];
      first_[i] = static_cast<int>(points_.size());
      for (int k = 0; k < w.layers; ++k)
        points_.push_back(plan.place(w, k)), wall_.push_back(w.point);
    }
  }
  /// Mesh point `p` at level `k`: 0 on the wall; from its last layer on the point of the core.
  int number(int p, int k) const {
    const int slot = plan_.wall_point_at(p);
    return slot < 0 || k >= plan_.wall_points()[at(slot)].layers ? p : first_[at(slot)] + k;
  }
  int layers(int p) const { return plan_.wall_points()[at(plan_.wall_point_at(p))].layers; }
  /// Point of the mesh without layers that a point of the new mesh stands for.
  int origin(int p) const {
    const int old = static_cast<int>(points_.size() - wall_.size());
    return p < old ? p : wall_[at(p - old)];
  }
  const std::vector<Vec3>& points() const { return points_; }

 private:
  const LayerPlan& plan_;
  std::vector<Vec3> points_;
  std::vector<int> first_, wall_;
};

struct Ring {
  const int* point;
  int size;
  int operator[](int k) const { return point[k % size]; }
};

inline Ring ring_of(const VolumeMesh& m, int f) {
  return {&m.face_points[at(m.face_start[at(f)])], m.face_start[at(f) + 1] - m.face_start[at(f)]};
}

inline int layers_of(const Columns& columns, const Ring& ring) {
  int n = 0;
  for (int k = 0; k < ring.size; ++k) n = std::max(n, columns.layers(ring[k]));
  return n;
}

/// What lies across each edge of the layered wall, edge by edge of face by face: another of its
/// faces by its number, or another boundary as -1 - boundary.
class WallEdges {
 public:
  WallEdges(const VolumeMesh& m, const std::vector<int>& faces);
  int across(int face, int edge) const { return across_[at(start_[at(face)] + edge)]; }

  static constexpr int nobody = -1000000;

 private:
  std::vector<int> start_, across_;
};

/// Puts the new mesh together.
class LayeredMesh {
 public:
  /// @param region cells of `m` to build; if there is one, the faces to the others are a boundary
  /// of their own, the last
  LayeredMesh(const VolumeMesh& m, const LayerPlan& plan, const WallEdges& edges,
              const Columns& columns, const std::vector<char>* region = nullptr)
      : m_(m), plan_(plan), edges_(edges), columns_(columns), region_(region) {}

  VolumeMesh build();
  int layer_cells() const { return layer_cells_; }

 private:
  struct Face {
    int below, above;  ///< above: cell, or -1 - boundary
    int first, size;
  };
  bool within(int cell) const { return !region_ || (*region_)[at(cell)]; }
  int cut() const { return static_cast<int>(m_.boundaries.size()); }

  void number_cells();
  /// Cell of layer `j` (1 at the wall) on wall face `i`.
  int layer_cell(int i, int j) const { return top_[at(i)] + depth_[at(i)] - j; }
  void add(int below, int above, const int* points, int size);
  void core_faces();
  void column_faces(int i, int boundary);
  /// Inner faces by their lower, then their higher cell; behind them those of each boundary by
  /// their cell.
  std::vector<int> order_of_faces() const;
  VolumeMesh sorted();

  const VolumeMesh& m_;
  const LayerPlan& plan_;
  const WallEdges& edges_;
  const Columns& columns_;
  const std::vector<char>* region_;
  int cells_ = 0, layer_cells_ = 0;
  std::vector<int> depth_, top_, core_number_, face_slot_;
  std::vector<Face> faces_;
  std::vector<int> corner_;
};

}  // namespace dunefield
