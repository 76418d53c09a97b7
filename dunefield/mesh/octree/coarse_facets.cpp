#include <dunefield/mesh/octree/coarse_facets.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

#include <dunefield/geometry/folds.hpp>

namespace dunefield {
namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr double felt = 10 * degree, corner = 30 * degree;
constexpr double seen = 2, panel = 6;  // widths of facets, in leaves

/// The leaf that holds a point of the box, m; 0 outside.
double leaf_at(const Octree& octree, const Vec3& p) {
  const Vec3 q = (p - octree.box().lo) * (1 / octree.unit());
  const Lattice at_p = {static_cast<int>(std::floor(q.x)), static_cast<int>(std::floor(q.y)),
                        static_cast<int>(std::floor(q.z))};
  return octree.holds(at_p) ? octree.size(octree.leaves()[at(octree.find(at_p))]) : 0;
}

}  // namespace

CoarseFacets coarse_facets(const Surface& s, const Octree& octree) {
  CoarseFacets all;
  all.least_angle = corner;
  double largest = 0, whole = 0;
  for (std::size_t t = 0; t < s.size(); ++t)
    if (leaf_at(octree, (s.corner(t, 0) + s.corner(t, 1) + s.corner(t, 2)) / 3) > 0)
      whole += norm(s.area_vector(t));
  for (const Fold& fold : folds_of(s, felt, corner)) {
    const Vec3 &low = s.points[at(fold.low)], &high = s.points[at(fold.high)];
    const Vec3 middle = (low + high) * 0.5;
    const double leaf = leaf_at(octree, middle);
    if (!(leaf > 0) || fold.narrower < seen * leaf || fold.width > 2 * panel * leaf) continue;
    const double area = 0.5 * fold.width * norm(high - low);
    all.area += area;
    all.least_angle = std::min(all.least_angle, fold.angle);
    all.largest_angle = std::max(all.largest_angle, fold.angle);
    if (const double weight = area * fold.angle; weight > largest)
      largest = weight, all.place = middle, all.width = fold.narrower, all.leaf = leaf;
  }
  all.share = whole > 0 ? all.area / whole : 0;
  return all;
}

}  // namespace dunefield
