#include <dunefield/geometry/flat_patches.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <tuple>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

/// For each triangle the ones beyond its edges, as far as there are just two on an edge; else -1.
std::vector<std::array<int, 3>> neighbours(const Surface& s, const EdgeTable& edges) {
  std::vector<std::array<int, 3>> beyond(s.size(), {-1, -1, -1});
  std::vector<unsigned char> known(s.size(), 0);
  edges.for_each([&](int, int, std::span<const EdgeTable::Use> uses) {
    if (uses.size() != 2) return;
    const int a = uses[0].triangle(), b = uses[1].triangle();
    if (known[at(a)] < 3) beyond[at(a)][known[at(a)]++] = b;
    if (known[at(b)] < 3) beyond[at(b)][known[at(b)]++] = a;
  });
  return beyond;
}

Vec3 any_across(const Vec3& n) {
  return unit(std::abs(n.x) < 0.6 ? cross(n, {1, 0, 0}) : cross(n, {0, 1, 0}));
}

}  // namespace

FlatPatches::FlatPatches(const Surface& s, const EdgeTable& edges, double most_angle)
    : surface_(s), patch_of_(s.size(), -1) {
  const auto beyond = neighbours(s, edges);
  for (int t = 0; t < static_cast<int>(s.size()); ++t)
    if (patch_of_[at(t)] < 0) grow(t, beyond, std::cos(most_angle));
}

void FlatPatches::grow(int seed, const std::vector<std::array<int, 3>>& beyond,
                       double least_cosine) {
  const Vec3 normal = unit(surface_.area_vector(at(seed)));
  const int patch = static_cast<int>(start_.size()) - 1;
  std::vector<int> own = {seed};
  patch_of_[at(seed)] = patch;
  for (std::size_t i = 0; i < own.size(); ++i)
    for (const int t : beyond[at(own[i])]) {
      if (t < 0 || patch_of_[at(t)] >= 0) continue;
      // Facets may be turned over: which side is out does not matter here.
      if (std::abs(dot(unit(surface_.area_vector(at(t))), normal)) < least_cosine) continue;
      patch_of_[at(t)] = patch;
      own.push_back(t);
    }
  add_outline(own, normal);
}

void FlatPatches::add_outline(const std::vector<int>& triangles, const Vec3& normal) {
  struct InPlane {
    double u, v;
    int point;
  };
  std::vector<InPlane> p;
  const Vec3 e1 = any_across(normal), e2 = cross(normal, e1);
  for (const int t : triangles)
    for (const int point : surface_.triangles[at(t)])
      p.push_back(
          {dot(surface_.points[at(point)], e1), dot(surface_.points[at(point)], e2), point});
  std::sort(p.begin(), p.end(), [](const InPlane& a, const InPlane& b) {
    return std::tie(a.u, a.v, a.point) < std::tie(b.u, b.v, b.point);
  });
  p.erase(std::unique(p.begin(), p.end(),
                      [](const InPlane& a, const InPlane& b) { return a.point == b.point; }),
          p.end());
  std::vector<InPlane> hull;
  const auto half = [&](auto first, auto last) {
    const std::size_t least = hull.size() + 2;
    for (auto q = first; q != last; ++q) {
      while (hull.size() >= least) {
        const InPlane &a = hull[hull.size() - 2], &b = hull.back();
        if ((b.u - a.u) * (q->v - a.v) - (b.v - a.v) * (q->u - a.u) > 0) break;
        hull.pop_back();
      }
      hull.push_back(*q);
    }
  };
  if (p.size() > 3) {
    half(p.begin(), p.end());
    half(p.rbegin(), p.rend());
  } else {
    hull = p;
  }
  for (const InPlane& q : hull) outline_.push_back(q.point);
  start_.push_back(outline_.size());
}

double FlatPatches::height(int triangle, int low, int high) const {
  const Vec3& a = surface_.points[at(low)];
  const Vec3 along = unit(surface_.points[at(high)] - a);
  const auto patch = at(patch_of_[at(triangle)]);
  double farthest2 = 0;
  for (std::size_t i = start_[patch]; i < start_[patch + 1]; ++i)
    farthest2 = std::max(farthest2, norm2(cross(surface_.points[at(outline_[i])] - a, along)));
  return std::sqrt(farthest2);
}

}  // namespace dunefield
