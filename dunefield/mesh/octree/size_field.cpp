#include <dunefield/mesh/octree/size_field.hpp>

#include <algorithm>
#include <array>
#include <cmath>

#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double slack = 1.001;  // rounding of sizes that were meant to be equal

std::array<std::int64_t, 3> cube_of(const Vec3& x, double edge) {
  return {static_cast<std::int64_t>(std::floor(x.x / edge)),
          static_cast<std::int64_t>(std::floor(x.y / edge)),
          static_cast<std::int64_t>(std::floor(x.z / edge))};
}

/// 21 bits a direction: two million cubes.
std::uint64_t key(std::int64_t i, std::int64_t j, std::int64_t k) {
  constexpr std::int64_t middle = 1 << 20, most = (1 << 21) - 1;
  const auto bits = [&](std::int64_t n) {
    return static_cast<std::uint64_t>(std::clamp<std::int64_t>(n + middle, 0, most));
  };
  return bits(i) | bits(j) << 21 | bits(k) << 42;
}

/// Calls `visit(key)` for the cubes that a box around a place reaches into, until it returns true.
template <class Visit>
bool any_cube(const Vec3& centre, double width, double edge, const Visit& visit) {
  const Vec3 half = Vec3{1, 1, 1} * (0.5 * width / slack);
  const auto lo = cube_of(centre - half, edge), hi = cube_of(centre + half, edge);
  for (std::int64_t i = lo[0]; i <= hi[0]; ++i)
    for (std::int64_t j = lo[1]; j <= hi[1]; ++j)
      for (std::int64_t k = lo[2]; k <= hi[2]; ++k)
        if (visit(key(i, j, k))) return true;
  return false;
}

}  // namespace

SizeField::SizeField(double smallest, double largest, const std::vector<Wish>& wishes) {
  for (double edge = smallest * 2; edge <= largest * slack; edge *= 2)
    levels_.push_back({edge, {}});
  parallel_for(
      levels_.size(),
      [&](std::size_t l) {
        Level& level = levels_[l];
        for (const Wish& w : wishes)
          if (level.edge > w.size * slack)
            any_cube(w.centre, w.width, level.edge, [&](Key k) {
              level.cubes.push_back(k);
              return false;
            });
        std::sort(level.cubes.begin(), level.cubes.end());
        level.cubes.erase(std::unique(level.cubes.begin(), level.cubes.end()), level.cubes.end());
      },
      1);
}

double SizeField::smallest() const {
  for (const Level& l : levels_)
    if (!l.cubes.empty()) return 0.5 * l.edge;
  return 1e300;
}

bool SizeField::too_large(const Vec3& centre, double edge) const {
  for (const Level& l : levels_)
    if (std::abs(l.edge - edge) < (slack - 1) * edge)
      return any_cube(centre, edge, edge,
                      [&](Key k) { return std::binary_search(l.cubes.begin(), l.cubes.end(), k); });
  return false;
}

}  // namespace dunefield
