#include <dunefield/mesh/dual/chords.hpp>

#include <algorithm>
#include <cmath>
#include <optional>
#include <span>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/repair/sound_moves.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// of the height in the middle of a chord: the arc's mean height over it
constexpr double mean_of_parabola = 2.0 / 3;
// leaves between chord and arc; beyond it the face is not on the surface, or bridges something
constexpr double widest_gap = 0.15;
constexpr double alike = 0.9;  // cosine between a face and the surface over its middle
// leaves: a point this near to a sharp edge is there to keep it
constexpr double beside_edge = 0.05;
constexpr double noticeable = 0.002;  // leaves: a shorter move is none

/// Height of the surface over the middle of a face, m; none where the face is not a chord of it.
std::optional<double> height_over(const PolygonMeasure& face, double leaf,
                                  const SolidField& solid) {
  const Vec3 outward = -unit(face.area);  // area vectors leave the air
  const auto near = solid.project(face.centre, widest_gap * leaf, outward);
  if (!near || dot(near->normal, outward) < alike) return {};
  return dot(near->point - face.centre, outward);
}

/// The planes of the tunnel's sides that a point lies in, as unit normals; at most three.
struct Planes {
  Vec3 normal[3];
  int count = 0;
  void add(const Vec3& n) {
    for (int i = 0; i < count; ++i)
      if (std::abs(dot(n, normal[i])) > alike) return;
    if (count < 3) normal[count++] = n;
  }
};

}  // namespace

int balance_chords(VolumeMesh& m, const std::vector<double>& leaf, const SharpLines& sharp,
                   const SolidField& solid) {
  const auto ring = [&](int f) {
    return std::span(m.face_points)
        .subspan(at(m.face_start[at(f)]), at(m.face_start[at(f) + 1] - m.face_start[at(f)]));
  };
  const auto measure = [&](int f) {
    return measure_polygon(m.points, ring(f).data(), static_cast<int>(ring(f).size()));
  };
  std::vector<int> slot(m.points.size(), -1), moving;
  std::vector<Planes> planes(m.points.size());
  for (const Boundary& boundary : m.boundaries)
    for (int f = boundary.first; f < boundary.first + boundary.count; ++f)
      for (const int p : ring(f)) {
        if (boundary.kind != BoundaryKind::part)
          planes[at(p)].add(unit(measure(f).area));
        else if (slot[at(p)] < 0)
          slot[at(p)] = static_cast<int>(moving.size()), moving.push_back(p);
      }
  // Each point goes by the mean of the faces around it.
  std::vector<Vec3> way(moving.size());
  std::vector<double> area(moving.size(), 0);
  for (const Boundary& boundary : m.boundaries) {
    if (boundary.kind != BoundaryKind::part) continue;
    std::vector<std::optional<double>> height(at(boundary.count));
    parallel_for(
        height.size(),
        [&](std::size_t i) {
          const int f = boundary.first + static_cast<int>(i);
          height[i] = height_over(measure(f), leaf[at(ring(f)[0])], solid);
        },
        64);
    for (int i = 0; i < boundary.count; ++i) {
      if (!height[at(i)]) continue;
      const Vec3 s = measure(boundary.first + i).area;
      for (const int p : ring(boundary.first + i))
        if (const int k = slot[at(p)]; k >= 0)
          way[at(k)] -= s * (mean_of_parabola * *height[at(i)]), area[at(k)] += norm(s);
    }
  }
  std::vector<int> points;
  std::vector<Vec3> target;
  for (std::size_t k = 0; k < moving.size(); ++k) {
    const int p = moving[k];
    if (area[k] == 0) continue;
    Vec3 step = way[k] / area[k];
    for (int i = 0; i < planes[at(p)].count; ++i)
      step -= planes[at(p)].normal[i] * dot(step, planes[at(p)].normal[i]);
    if (norm(step) > noticeable * leaf[at(p)] &&
        !sharp.nearest(m.points[at(p)], beside_edge * leaf[at(p)]))
      points.push_back(p), target.push_back(m.points[at(p)] + step);
  }
  const std::vector<char> moved =
      move_together(m, faces_of_cells(m), points, target, cells_at_points(m, points));
  return static_cast<int>(std::count(moved.begin(), moved.end(), 1));
}

}  // namespace dunefield
