#include <dunefield/geometry/query/sampling.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <numeric>

#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

/// A number from 0 to 1 that looks like chance, the same for the same square (splitmix64: Steele,
/// Lea, Flood 2014).
double chance(int axis, long i, long j) {
  auto x = static_cast<std::uint64_t>(i) * 0x9e3779b97f4a7c15ULL +
           static_cast<std::uint64_t>(j) * 0xbf58476d1ce4e5b9ULL + static_cast<std::uint64_t>(axis);
  x ^= x >> 30, x *= 0xbf58476d1ce4e5b9ULL;
  x ^= x >> 27, x *= 0x94d049bb133111ebULL;
  x ^= x >> 31;
  return static_cast<double>(x >> 11) * 0x1.0p-53;
}

/// The axis that a normal is most along; of two that are alike always the same one.
int main_axis(const Vec3& n) {
  const double x = std::abs(n.x), y = 1.001 * std::abs(n.y), z = 1.002 * std::abs(n.z);
  return x >= y && x >= z ? 0 : y >= z ? 1 : 2;
}

/// A triangle seen along an axis, in squares of a lattice.
struct Projected {
  std::array<double, 3> u, v;

  /// Least and largest u between two lines of equal v; empty if the triangle is not there.
  std::array<double, 2> between(double low, double high) const {
    std::array<double, 2> range = {1e300, -1e300};
    const auto widen = [&](double at_u) {
      range = {std::min(range[0], at_u), std::max(range[1], at_u)};
    };
    for (std::size_t a = 0; a < 3; ++a) {
      const std::size_t b = (a + 1) % 3;
      if (v[a] >= low && v[a] <= high) widen(u[a]);
      for (const double line : {low, high})
        if ((v[a] < line) != (v[b] < line))
          widen(u[a] + (u[b] - u[a]) * (line - v[a]) / (v[b] - v[a]));
    }
    return range;
  }

  /// Shares of the corners in a place; one below zero lies outside.
  std::array<double, 3> shares(double pu, double pv) const {
    const auto area = [&](std::size_t a, std::size_t b) {
      return (u[a] - pu) * (v[b] - pv) - (u[b] - pu) * (v[a] - pv);
    };
    const double all = area(0, 1) + area(1, 2) + area(2, 0);
    return {area(1, 2) / all, area(2, 0) / all, area(0, 1) / all};
  }
};

void pierce(const Surface& s, int t, double spacing, std::vector<SurfaceSample>& out) {
  const int axis = main_axis(s.area_vector(at(t))), cu = (axis + 1) % 3, cv = (axis + 2) % 3;
  Projected p;
  for (int k = 0; k < 3; ++k) {
    const Vec3 corner = s.corner(at(t), k);
    p.u[at(k)] = corner[cu] / spacing, p.v[at(k)] = corner[cv] / spacing;
  }
  const auto [least, most] = std::minmax({p.v[0], p.v[1], p.v[2]});
  for (long j = std::lround(std::floor(least)); j <= std::lround(std::floor(most)); ++j) {
    const auto row = static_cast<double>(j);
    const auto [from, to] = p.between(row, row + 1);
    if (from > to) continue;
    for (long i = std::lround(std::floor(from)); i <= std::lround(std::floor(to)); ++i) {
      const auto share = p.shares(static_cast<double>(i) + chance(2 * axis, i, j),
                                  row + chance(2 * axis + 1, i, j));
      if (!(share[0] >= 0 && share[1] >= 0 && share[2] >= 0)) continue;
      out.push_back({s.corner(at(t), 0) * share[0] + s.corner(at(t), 1) * share[1] +
                         s.corner(at(t), 2) * share[2],
                     t});
    }
  }
}

}  // namespace

std::vector<SurfaceSample> pierced_surface(const Surface& s, double spacing) {
  std::vector<SurfaceSample> out;
  for (int t = 0; t < static_cast<int>(s.size()); ++t) pierce(s, t, spacing, out);
  return out;
}

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
