#include <dunefield/geometry/query/sampling.hpp>

#include <numeric>

#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

std::vector<SurfaceSample> sample_surface(const Surface& s, std::size_t wanted,
                                          const std::vector<int>& triangles) {
  std::vector<int> own = triangles;
  if (own.empty()) own.resize(s.size()), std::iota(own.begin(), own.end(), 0);
  std::vector<double> area(own.size());
  parallel_for(own.size(), [&](std::size_t i) {
    area[i] = norm(s.area_vector(static_cast<std::size_t>(own[i])));
  });
  const double total = std::accumulate(area.begin(), area.end(), 0.0);
  std::vector<SurfaceSample> out;
  if (!(total > 0)) return out;
  out.reserve(wanted + 1);
  // Steps of equal area along the list of triangles; the place in each by a sequence of low
  // discrepancy (Roberts 2018).
  const double step = total / static_cast<double>(wanted);
  double next = 0.5 * step, reached = 0, u = 0.5, v = 0.5;
  for (std::size_t i = 0; i < own.size(); ++i) {
    const auto t = static_cast<std::size_t>(own[i]);
    reached += area[i];
    for (; next < reached; next += step) {
      u = std::fmod(u + 0.7548776662466927, 1.0), v = std::fmod(v + 0.5698402909980532, 1.0);
      const double a = u + v > 1 ? 1 - u : u, b = u + v > 1 ? 1 - v : v;
      out.push_back({s.corner(t, 0) + (s.corner(t, 1) - s.corner(t, 0)) * a +
                         (s.corner(t, 2) - s.corner(t, 0)) * b,
                     own[i]});
    }
  }
  return out;
}

}  // namespace dunefield
