#include <dunefield/geometry/shapes/polygon.hpp>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr std::size_t longest_ring_for_ears = 4000;  // beyond it a fan about the first point

struct Flat {
  double x, y;
};

double turn(const Flat& a, const Flat& b, const Flat& c) {
  return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
}

bool contains(const Flat& a, const Flat& b, const Flat& c, const Flat& p) {
  return turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0;
}

}  // namespace

Vec3 area_vector(const std::vector<Vec3>& points, const std::vector<int>& ring) {
  Vec3 sum;
  if (ring.empty()) return sum;
  const Vec3 origin = points[static_cast<std::size_t>(ring[0])];
  for (std::size_t i = 0; i < ring.size(); ++i)
    sum += cross(points[static_cast<std::size_t>(ring[i])] - origin,
                 points[static_cast<std::size_t>(ring[(i + 1) % ring.size()])] - origin);
  return 0.5 * sum;
}

std::vector<std::array<int, 3>> triangulate(const std::vector<Vec3>& points,
                                            const std::vector<int>& ring,
                                            const std::function<bool(int, int)>& taken) {
  std::vector<std::array<int, 3>> out;
  if (ring.size() < 3) return out;
  const Vec3 n = unit(area_vector(points, ring));
  const Vec3 e1 = unit(cross(std::abs(n.x) < 0.7 ? Vec3{1, 0, 0} : Vec3{0, 1, 0}, n)),
             e2 = cross(n, e1);
  std::vector<int> left(ring.size());
  std::vector<Flat> flat;
  for (std::size_t i = 0; i < ring.size(); ++i) {
    left[i] = static_cast<int>(i);
    const Vec3& p = points[static_cast<std::size_t>(ring[i])];
    flat.push_back({dot(p, e1), dot(p, e2)});
  }
  const auto at = [&](int i) -> const Flat& { return flat[static_cast<std::size_t>(i)]; };
  const auto cut = [&](std::size_t i) {
    const std::size_t m = left.size(), a = (i + m - 1) % m, c = (i + 1) % m;
    const auto point = [&](std::size_t k) { return ring[static_cast<std::size_t>(left[k])]; };
    out.push_back({point(a), point(i), point(c)});
    left.erase(left.begin() + static_cast<std::ptrdiff_t>(i));
  };
  const bool clip = ring.size() <= longest_ring_for_ears;
  std::size_t start = 0;
  while (left.size() > 3) {
    const std::size_t m = left.size();
    std::size_t ear = 1 % m;  // a fan, if there is no ear
    bool found = false;
    for (std::size_t k = 0; clip && k < m; ++k) {
      const std::size_t i = (start + k) % m;
      const int a = left[(i + m - 1) % m], b = left[i], c = left[(i + 1) % m];
      if (turn(at(a), at(b), at(c)) <= 0) continue;
      bool empty = true;
      for (const int p : left)
        if (p != a && p != b && p != c && turn(at(a), at(b), at(c)) > 0 &&
            contains(at(a), at(b), at(c), at(p))) {
          empty = false;
          break;
        }
      if (!empty) continue;
      const bool free =
          !taken || !taken(ring[static_cast<std::size_t>(a)], ring[static_cast<std::size_t>(c)]);
      if (free || !found) ear = i, found = true;
      if (free) break;
    }
    cut(ear);
    start = ear;
  }
  cut(1);
  return out;
}

}  // namespace dunefield
