#include <dunefield/geometry/shapes/capsules.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

double distance(const Capsule& c, const Vec3& p) {
  const Vec3 way = c.to - c.from;
  const double t = std::clamp(dot(p - c.from, way) / (norm2(way) + 1e-300), 0.0, 1.0);
  return norm(p - c.from - way * t) - (c.from_radius + (c.to_radius - c.from_radius) * t);
}

double smooth_least(double a, double b, double blend) {
  const double h = std::max(blend - std::abs(a - b), 0.0) / blend;
  return std::min(a, b) - 0.25 * h * h * blend;
}

double field(const std::vector<Capsule>& capsules, double blend, const Vec3& p) {
  double d = 1e300;
  for (const Capsule& c : capsules)
    d = d > 1e299 ? distance(c, p) : smooth_least(d, distance(c, p), blend);
  return d;
}

/// Values on the corners of a regular grid of cells.
struct Grid {
  Vec3 lo;
  double cell = 0;
  std::size_t n[3] = {0, 0, 0};  // corners each way
  std::vector<float> value;
  std::size_t index(std::size_t i, std::size_t j, std::size_t k) const {
    return (k * n[1] + j) * n[0] + i;
  }
  Vec3 corner(std::size_t i, std::size_t j, std::size_t k) const {
    return lo + Vec3{static_cast<double>(i), static_cast<double>(j), static_cast<double>(k)} * cell;
  }
};

/// Mean of the places where the cell's edges change sign.
Vec3 point_in_cell(const Grid& g, std::size_t i, std::size_t j, std::size_t k) {
  Vec3 sum;
  int count = 0;
  for (int a = 0; a < 8; ++a)
    for (int axis = 0; axis < 3; ++axis) {
      if (a >> axis & 1) continue;
      const int b = a | 1 << axis;
      const auto at = [&](int c) {
        return g.index(i + static_cast<std::size_t>(c & 1),
                       j + static_cast<std::size_t>(c >> 1 & 1),
                       k + static_cast<std::size_t>(c >> 2));
      };
      const double va = static_cast<double>(g.value[at(a)]),
                   vb = static_cast<double>(g.value[at(b)]);
      if ((va < 0) == (vb < 0)) continue;
      Vec3 p{static_cast<double>(a & 1), static_cast<double>(a >> 1 & 1),
             static_cast<double>(a >> 2)};
      p[axis] += va / (va - vb);
      sum += p, ++count;
    }
  return g.corner(i, j, k) + sum * (g.cell / count);
}

}  // namespace

Surface blend_capsules(const std::string& part, const std::vector<Capsule>& capsules, double blend,
                       double cell) {
  if (capsules.empty() || !(blend > 0) || !(cell > 0))
    throw InputError("capsules, blend and cell size must be given and above zero", part,
                     "check them");
  Box box;
  for (const Capsule& c : capsules) {
    if (!(c.from_radius > 0 && c.to_radius > 0))
      throw InputError("a capsule has no radius", part, "check it");
    for (const auto& [p, r] : {std::pair{c.from, c.from_radius}, std::pair{c.to, c.to_radius}})
      box.include(p - Vec3{1, 1, 1} * (r + blend)), box.include(p + Vec3{1, 1, 1} * (r + blend));
  }
  Grid g;
  g.cell = cell;
  // off any round number: no corner lies on the surface
  g.lo = box.lo - Vec3{1, 1, 1} * (1.37 * cell);
  double corners = 1;
  for (int i = 0; i < 3; ++i)
    g.n[i] = static_cast<std::size_t>(std::min(1e6, box.size()[i] / cell)) + 5,
    corners *= static_cast<double>(g.n[i]);
  if (corners > 1e8)
    throw InputError(fmt::format("a grid of {:.0f} cells would be needed", corners), part,
                     "choose a larger cell");
  g.value.resize(g.n[0] * g.n[1] * g.n[2]);
  parallel_for(
      g.n[2],
      [&](std::size_t k) {
        for (std::size_t j = 0; j < g.n[1]; ++j)
          for (std::size_t i = 0; i < g.n[0]; ++i)
            g.value[g.index(i, j, k)] =
                static_cast<float>(field(capsules, blend, g.corner(i, j, k)));
      },
      1);
  Surface s;
  s.part_names = {part};
  std::vector<int> number(g.value.size(), -1);
  const auto solid = [&](std::size_t i, std::size_t j, std::size_t k) {
    return g.value[g.index(i, j, k)] < 0;
  };
  const auto point = [&](std::size_t i, std::size_t j, std::size_t k) {
    int& n = number[g.index(i, j, k)];
    if (n < 0) n = static_cast<int>(s.points.size()), s.points.push_back(point_in_cell(g, i, j, k));
    return n;
  };
  // Each grid edge that changes sign gives a quadrilateral of the four cells around it.
  for (std::size_t k = 1; k + 1 < g.n[2]; ++k)
    for (std::size_t j = 1; j + 1 < g.n[1]; ++j)
      for (std::size_t i = 1; i + 1 < g.n[0]; ++i)
        for (int axis = 0; axis < 3; ++axis) {
          const bool a = solid(i, j, k),
                     b = solid(i + (axis == 0), j + (axis == 1), k + (axis == 2));
          if (a == b) continue;
          int q[4];
          // The four cells around an edge along `axis`: both other axes one step back or not.
          const int e = axis == 0 ? 1 : 0, f = axis == 2 ? 1 : 2;
          const std::size_t base[3] = {i, j, k};
          int m = 0;
          for (const auto& [de, df] :
               {std::pair{1, 1}, std::pair{0, 1}, std::pair{0, 0}, std::pair{1, 0}}) {
            std::size_t c[3] = {base[0], base[1], base[2]};
            c[e] -= static_cast<std::size_t>(de), c[f] -= static_cast<std::size_t>(df);
            q[m++] = point(c[0], c[1], c[2]);
          }
          const bool outward = a != (axis == 1);
          if (outward)
            s.triangles.push_back({q[0], q[1], q[2]}), s.triangles.push_back({q[0], q[2], q[3]});
          else
            s.triangles.push_back({q[0], q[2], q[1]}), s.triangles.push_back({q[0], q[3], q[2]});
        }
  s.part_of.assign(s.size(), 0);
  if (signed_volume(s) < 0)
    for (auto& t : s.triangles) std::swap(t[1], t[2]);
  drop_unused_points(s);
  return s;
}

}  // namespace dunefield
