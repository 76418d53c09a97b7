#include <dunefield/geometry/health/self_crossings.hpp>

#include <mutex>
#include <optional>

#include <dunefield/geometry/query/box_tree.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr std::size_t most_places = 2000;

/// Where the segment from `a` to `b` passes through the inside of a triangle.
std::optional<Vec3> pass_through(const Vec3& a, const Vec3& b, const Vec3& p, const Vec3& q,
                                 const Vec3& r) {
  const Vec3 d = b - a, e1 = q - p, e2 = r - p, h = cross(d, e2);
  const double det = dot(e1, h);
  const double scale = norm(e1) * norm(e2) * norm(d);
  if (std::abs(det) <= 1e-9 * scale) return std::nullopt;
  constexpr double inside = 1e-6;  // facets that only touch do not cross
  const Vec3 s = a - p, k = cross(s, e1);
  const double u = dot(s, h) / det, v = dot(d, k) / det, t = dot(e2, k) / det;
  if (u < inside || v < inside || u + v > 1 - inside || t < inside || t > 1 - inside)
    return std::nullopt;
  return a + d * t;
}

std::optional<Vec3> crossing_of(const Surface& s, std::size_t i, std::size_t j) {
  for (int k = 0; k < 3; ++k) {
    if (const auto x = pass_through(s.corner(i, k), s.corner(i, (k + 1) % 3), s.corner(j, 0),
                                    s.corner(j, 1), s.corner(j, 2)))
      return x;
    if (const auto x = pass_through(s.corner(j, k), s.corner(j, (k + 1) % 3), s.corner(i, 0),
                                    s.corner(i, 1), s.corner(i, 2)))
      return x;
  }
  return std::nullopt;
}

bool share_a_point(const Surface& s, std::size_t i, std::size_t j) {
  for (const int a : s.triangles[i])
    for (const int b : s.triangles[j])
      if (a == b) return true;
  return false;
}

}  // namespace

Crossings find_self_crossings(const Surface& s, const Pieces& pieces) {
  std::vector<SmallBox> boxes(s.size());
  parallel_for(s.size(), [&](std::size_t t) {
    Box box;
    for (int k = 0; k < 3; ++k) box.include(s.corner(t, k));
    boxes[t] = SmallBox(box);
  });
  const BoxTree tree(boxes);
  Crossings out;
  out.triangle.assign(s.size(), 0);
  std::mutex mutex;
  const auto test = [&](std::int32_t first, std::int32_t second) {
    const auto i = static_cast<std::size_t>(first), j = static_cast<std::size_t>(second);
    if (share_a_point(s, i, j)) return;
    const auto x = crossing_of(s, i, j);
    if (!x) return;
    std::lock_guard lock(mutex);
    ++out.count;
    out.within_piece += pieces.of_triangle[i] == pieces.of_triangle[j];
    out.triangle[i] = out.triangle[j] = 1;
    if (out.places.size() < most_places) out.places.push_back(*x);
  };
  tree.touching_pairs(boxes, test);
  std::sort(out.places.begin(), out.places.end(), [](const Vec3& a, const Vec3& b) {
    return a.x != b.x ? a.x < b.x : a.y != b.y ? a.y < b.y : a.z < b.z;
  });
  return out;
}

}  // namespace dunefield
