#include <dunefield/geometry/health/symmetry.hpp>

#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/sampling.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

Asymmetry about(const Surface& s, const std::vector<SurfaceSample>& samples, const RayScene& rays,
                int axis, double plane, double reach) {
  std::vector<double> distance(samples.size());
  const double back = 1e-4 * reach;  // the rays start a little before the point
  parallel_for(
      samples.size(),
      [&](std::size_t i) {
        Vec3 p = samples[i].point,
             n = unit(s.area_vector(static_cast<std::size_t>(samples[i].triangle)));
        p[axis] = 2 * plane - p[axis], n[axis] = -n[axis];
        distance[i] = reach;
        for (const double side : {-1.0, 1.0}) {
          const Vec3 d = n * side;
          if (const auto hit = rays.first_crossing(p - d * back, p + d * reach))
            distance[i] = std::min(distance[i], std::abs(hit->distance - back));
        }
      },
      64);
  Asymmetry a;
  a.plane = plane;
  for (std::size_t i = 0; i < samples.size(); ++i) {
    a.mean += distance[i] / static_cast<double>(samples.size());
    if (distance[i] > a.largest) a.largest = distance[i], a.place = samples[i].point;
  }
  return a;
}

/// The same by the nearest point, which rays miss where the surface bends away.
void measure_again(const Surface& s, const std::vector<SurfaceSample>& samples, int axis,
                   Asymmetry& a) {
  const NearestTree nearest(s);
  std::vector<double> distance(samples.size());
  parallel_for(
      samples.size(),
      [&](std::size_t i) {
        Vec3 p = samples[i].point;
        p[axis] = 2 * a.plane - p[axis];
        distance[i] = nearest.nearest(p, 1e6).distance;
      },
      64);
  a.mean = a.largest = 0;
  for (std::size_t i = 0; i < samples.size(); ++i) {
    a.mean += distance[i] / static_cast<double>(samples.size());
    if (distance[i] > a.largest) a.largest = distance[i], a.place = samples[i].point;
  }
}

}  // namespace

Asymmetry asymmetry(const Surface& s, const RayScene& rays, int axis, std::size_t wanted) {
  const Box box = bounds(s);
  const auto samples = sample_surface(s, wanted);
  if (samples.empty()) return {};
  double mean = 0;
  for (const auto& p : samples) mean += p.point[axis] / static_cast<double>(samples.size());
  const double reach = 0.25 * norm(box.size());
  const Asymmetry by_box = about(s, samples, rays, axis, box.centre()[axis], reach),
                  by_area = about(s, samples, rays, axis, mean, reach);
  Asymmetry a = by_box.mean <= by_area.mean ? by_box : by_area;
  constexpr std::size_t affordable = 2'000'000;
  if (s.size() <= affordable) measure_again(s, samples, axis, a);
  return a;
}

}  // namespace dunefield
