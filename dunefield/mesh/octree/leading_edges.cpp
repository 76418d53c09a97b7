#include <dunefield/mesh/octree/leading_edges.hpp>

#include <cmath>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

const Vec3 rearward{1, 0, 0};
constexpr double upstream = 0.6;  // cosine between a nose and the stream
constexpr double across = 0.7;  // the most of its length that such an edge may run along the stream
// Radii of the nose: where thickness is measured behind it (a profile 12 % thick, whose nose has
// 1.6 % of its chord, is four thick there), how thick thin shapes are at most, how far they reach
// to both sides along the edge at least (corners do not), and how far behind it.
constexpr double behind = 2, half_thickness = 4, half_span = 4, depth = 8;

/// Of the curvature that a fold is part of, by the turn from facet to facet. Between a wide facet
/// and a narrow one a flat side begins: what is curved there, its other folds tell.
double radius_of(const Fold& fold) {
  constexpr double alike = 3;
  return fold.width < alike * fold.narrower ? fold.radius() : 1e300;
}

bool is_thin(const Vec3& nose, const Vec3& along, double radius, const RayScene& rays,
             const SolidField& solid) {
  const Vec3 inner = nose + rearward * (behind * radius), ahead = nose - rearward * radius;
  if (!solid.inside(inner, 0) || solid.inside(ahead, 0)) return false;  // hidden in another part
  const Vec3 thick = unit(cross(rearward, along)) * (half_thickness * radius),
             wide = along * (half_span * radius);
  return rays.blocked(inner, inner + thick) && rays.blocked(inner, inner - thick) &&
         !rays.blocked(inner, inner + wide) && !rays.blocked(inner, inner - wide) &&
         !rays.blocked(inner, nose + rearward * (depth * radius));
}

}  // namespace

std::vector<LeadingEdge> leading_edges(const Surface& s, const std::vector<Fold>& folds,
                                       const RayScene& rays, const SolidField& solid,
                                       double least_radius, double most_radius) {
  std::vector<char> found(folds.size(), 0);
  parallel_for(
      folds.size(),
      [&](std::size_t i) {
        const Fold& fold = folds[i];
        const double radius = radius_of(fold);
        if (!(radius >= least_radius && radius <= most_radius)) return;
        const Vec3 &a = s.points[at(fold.low)], &b = s.points[at(fold.high)], along = unit(b - a);
        // Which side is out, dirty surfaces do not tell: what lies behind does.
        if (std::abs(dot(unit(fold.normals[0] + fold.normals[1]), rearward)) < upstream ||
            std::abs(dot(along, rearward)) > across)
          return;
        found[i] = is_thin(0.5 * (a + b), along, radius, rays, solid);
      },
      256);
  std::vector<LeadingEdge> edges;
  for (std::size_t i = 0; i < folds.size(); ++i)
    if (found[i])
      edges.push_back(
          {s.points[at(folds[i].low)], s.points[at(folds[i].high)], radius_of(folds[i])});
  return edges;
}

}  // namespace dunefield
