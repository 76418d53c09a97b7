// How small the leaves must be where: parts, boxes, curvature, sharp edges, gaps and thin places.
#pragma once

#include <vector>

#include <dunefield/geometry/folds.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/mesh/mesh_options.hpp>
#include <dunefield/mesh/octree/solid_field.hpp>

namespace dunefield {

class Sizing {
 public:
  Sizing(const Surface& vehicle, const SolidField& solid, const MeshOptions& options);

  /// Leaf edge that is asked for anywhere at least, m.
  double smallest() const { return smallest_; }
  /// True if a leaf of this edge is too large for its place.
  bool too_large(const Vec3& centre, double edge) const;

 private:
  /// Leaves of one size, wanted near some facets, edges or points.
  struct Group {
    NearestTree nearest;
    double size, spread;
  };
  void near_parts(const Surface& vehicle);
  void near_edges(const Surface& vehicle, const std::vector<Fold>& folds);
  void near_leading_edges(const Surface& vehicle, const std::vector<Fold>& folds,
                          const RayScene& rays, const SolidField& solid);
  void in_narrow_places(const Surface& vehicle, const RayScene& rays, const SolidField& solid);
  void add_groups(const std::vector<Surface>& of_level, double spread);
  int halvings_to(double size) const;  ///< of the surface size; below 0: a larger one would do
  /// The same as far as the smallest size allows.
  int level_of(double size) const;
  /// The same for a gap's cells across; the slot halvings more in one that the smallest size may
  /// close but these open.
  int level_of_gap(double width) const;
  const MeshOptions& options_;
  double smallest_;
  int levels_ = 0;  ///< halvings allowed
  std::vector<Group> groups_;
};

}  // namespace dunefield
