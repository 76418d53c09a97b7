#include <dunefield/geometry/folds.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <unordered_map>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/edges.hpp>
#include <dunefield/geometry/flat_patches.hpp>

namespace dunefield {
namespace {

// of the surface's diagonal: lower facets have no normal to speak of
constexpr double no_width = 1e-5;
constexpr double coplanar = 1e-3;  // rad: rounding of the file's coordinates
constexpr int most_in_a_row = 8;   // facets without width, one behind the other

/// The facet beyond an edge of another one; `turned` if it looks the other way.
struct Beyond {
  int triangle = -1;
  bool turned = false;
  double edge2 = 0;  ///< squared length of the edge between
};

/// Facets without width with what lies beyond their two longest edges.
class Slivers {
 public:
  Slivers(const Surface& s, const EdgeTable& edges) {
    const double least = no_width * norm(bounds(s).size());
    for (std::size_t t = 0; t < s.size(); ++t) {
      double longest2 = 0;
      for (int c = 0; c < 3; ++c)
        longest2 = std::max(longest2, norm2(s.corner(t, (c + 1) % 3) - s.corner(t, c)));
      if (2 * norm(s.area_vector(t)) <= least * std::sqrt(longest2)) beyond_[static_cast<int>(t)];
    }
    if (beyond_.empty()) return;
    edges.for_each([&](int low, int high, std::span<const EdgeTable::Use> uses) {
      if (uses.size() != 2) return;
      const double edge2 = norm2(s.points[at(high)] - s.points[at(low)]);
      const bool turned = uses[0].backward() == uses[1].backward();
      for (const auto& [of, other] : {std::pair{uses[0], uses[1]}, std::pair{uses[1], uses[0]}})
        if (const auto it = beyond_.find(of.triangle()); it != beyond_.end())
          insert(it->second, {other.triangle(), turned, edge2});
    });
  }

  /// What is met beyond an edge of `from`, slivers looked through.
  Beyond through(int from, Beyond next) const {
    for (int step = 0; step < most_in_a_row && next.triangle >= 0; ++step) {
      const auto it = beyond_.find(next.triangle);
      if (it == beyond_.end()) return next;
      const auto& [a, b] = it->second;
      const Beyond& on = a.triangle == from ? b : a;
      from = next.triangle;
      next = {on.triangle, next.turned != on.turned, on.edge2};
    }
    return {};
  }

 private:
  static void insert(std::array<Beyond, 2>& longest, const Beyond& b) {
    if (b.edge2 > longest[0].edge2)
      longest[1] = longest[0], longest[0] = b;
    else if (b.edge2 > longest[1].edge2)
      longest[1] = b;
  }
  std::unordered_map<int, std::array<Beyond, 2>> beyond_;
};

}  // namespace

std::vector<Fold> folds_of(const Surface& s, double least_angle, double largest_angle) {
  const EdgeTable edges(s);
  const Slivers slivers(s, edges);
  const FlatPatches patches(s, edges, coplanar);
  std::vector<Fold> folds;
  edges.for_each([&](int low, int high, std::span<const EdgeTable::Use> uses) {
    if (uses.size() != 2) return;
    const int t0 = uses[0].triangle(), t1 = uses[1].triangle();
    const bool turned = uses[0].backward() == uses[1].backward();
    const Beyond ends[2] = {slivers.through(t1, {t0, false, 0}),
                            slivers.through(t0, {t1, turned, 0})};
    if (ends[0].triangle < 0 || ends[1].triangle < 0) return;
    Fold fold{low, high, {}, 0, 0, 0};
    if (s.points[at(high)] == s.points[at(low)]) return;
    for (int side = 0; side < 2; ++side) {
      const Vec3 area = s.area_vector(at(ends[side].triangle));
      fold.normals[side] = unit(ends[side].turned ? -area : area);
    }
    fold.angle = std::acos(std::clamp(dot(fold.normals[0], fold.normals[1]), -1.0, 1.0));
    if (fold.angle < least_angle || fold.angle > largest_angle) return;
    const double heights[2] = {patches.height(ends[0].triangle, low, high),
                               patches.height(ends[1].triangle, low, high)};
    fold.width = heights[0] + heights[1], fold.narrower = std::min(heights[0], heights[1]);
    folds.push_back(fold);
  });
  return folds;
}

}  // namespace dunefield
