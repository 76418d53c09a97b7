#include <dunefield/mesh/planar/wall_columns.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr double last_over_face = 0.8;  // height of the last layer over the face's length
constexpr double share_of_room = 0.6;   // of the ball of air that touches there
constexpr double steepest_front = 0.25;
constexpr double fan_from = 0.8, fan_step = 0.45;  // rad
// Cells at the point of a fan are as wide as high: of the faces beside them they need a share, and
// first heights lead up to that: by so much a face, and by no more heights over its length, since
// that moves the cells' centres along the wall.
constexpr double first_in_fan = 0.22, step_of_first = 0.35, slope_of_first = 26;

/// The growth with which layers of this first height come to a thickness; 0 where that is too
/// little for it.
double growth_for(double first, int layers, double thickness) {
  if (thickness <= first * layers) return 0;
  double low = 1, high = 3;
  for (int i = 0; i < 60; ++i) {
    const double g = 0.5 * (low + high);
    (first * LayerOptions::sum(g, layers) < thickness ? low : high) = g;
  }
  return low;
}

std::vector<Ray> rays_of(const WallLine& wall) {
  std::vector<Ray> rays;
  for (std::size_t i = 0; i < wall.size(); ++i) {
    const Vec3 in = unit(to_the_right(wall.towards_next(wall.before(i)))),
               out = unit(to_the_right(wall.towards_next(i)));
    const double turning = std::atan2(turn({}, in, out), dot(in, out));
    if (wall.turning[i] == 0 || turning < fan_from) {
      constexpr double longest = 1.8;
      const double half = std::cos(0.5 * turning);
      rays.push_back({i, unit(in + out) * std::min(longest, 1 / std::max(half, 0.1)), 0, 0});
      continue;
    }
    const int sectors = static_cast<int>(std::ceil(turning / fan_step));
    const Vec3 aside = unit(to_the_right(in)) * -1.0;  // a quarter turn to the left
    for (int k = 0; k <= sectors; ++k) {
      const double angle = turning * k / sectors;
      rays.push_back({i, in * std::cos(angle) + aside * std::sin(angle), 0, 0});
    }
  }
  return rays;
}

int layers_for(const std::vector<WallLine>& walls, const LayerOptions& o) {
  double longest = 0;
  for (const WallLine& w : walls)
    for (std::size_t i = 0; i < w.size(); ++i) longest = std::max(longest, w.spacing(i));
  const double rise = std::log(std::max(1.0, last_over_face * longest / o.first_height)),
               most = std::log(o.growth) * (o.count - 1);  // that all of them can make
  return rise < most ? 1 + static_cast<int>(std::ceil(rise / std::log(o.growth))) : o.count;
}

/// The thickness that layers shall have, by the faces around.
double wanted_thickness(double spacing, const WallColumns& c, double growth) {
  const double last = std::max(last_over_face * spacing, 1e-12);
  if (c.layers == 1 || last <= c.first_height) return last * c.layers;
  const double own = std::min(growth, std::pow(last / c.first_height, 1.0 / (c.layers - 1)));
  return c.first_height * LayerOptions::sum(own, c.layers);
}

/// The front's slope against the wall is bounded.
void ease_front(WallColumns& c) {
  const std::size_t n = c.rays.size();
  const auto way = [&](std::size_t i) {
    return norm(c.wall.points[c.rays[c.next(i)].point] - c.wall.points[c.rays[i].point]);
  };
  for (std::size_t k = 0; k < 2 * n; ++k) {
    const std::size_t i = k % n, j = c.next(i);
    c.rays[j].thickness =
        std::min(c.rays[j].thickness, c.rays[i].thickness + steepest_front * way(i));
  }
  for (std::size_t k = 2 * n; k-- > 0;) {
    const std::size_t i = k % n, j = c.next(i);
    c.rays[i].thickness =
        std::min(c.rays[i].thickness, c.rays[j].thickness + steepest_front * way(i));
  }
}

void set_first_heights(WallColumns& c) {
  const std::size_t n = c.rays.size();
  for (std::size_t i = 0; i < n; ++i) {
    Ray& ray = c.rays[i];
    const bool fan = c.in_fan(i) || c.in_fan(i == 0 ? n - 1 : i - 1);
    ray.first =
        fan ? std::max(c.first_height, first_in_fan * c.wall.spacing(ray.point)) : c.first_height;
  }
  const auto lead_up = [&](const Ray& from, Ray& to) {
    const double way = norm(c.wall.points[from.point] - c.wall.points[to.point]);
    const double step =
        way > 0 ? std::min(step_of_first, slope_of_first * c.first_height / way) : 0;
    to.first = std::max(to.first, from.first / (1 + step));
  };
  for (std::size_t k = 0; k < 2 * n; ++k) lead_up(c.rays[k % n], c.rays[c.next(k % n)]);
  for (std::size_t k = 2 * n; k-- > 0;) lead_up(c.rays[c.next(k % n)], c.rays[k % n]);
}

WallColumns columns_on(WallLine wall, int layers, const LayerOptions& o) {
  WallColumns c;
  c.rays = rays_of(wall), c.layers = layers, c.first_height = o.first_height;
  c.wall = std::move(wall);
  for (Ray& ray : c.rays) {
    const double spacing = c.wall.spacing(ray.point);
    // A corner of the body touches itself, so that it has no room by the ball; its faces bound it.
    const double room = std::max(share_of_room * c.wall.room[ray.point], 0.5 * spacing);
    ray.thickness = std::min(wanted_thickness(spacing, c, o.growth), room);
  }
  ease_front(c);
  set_first_heights(c);
  return c;
}

struct FrontFace {
  Vec3 from, to;
  std::size_t line, ray;
};

/// Rays at front faces that cross another one, or the road.
std::vector<std::pair<std::size_t, std::size_t>> clashes(const std::vector<WallColumns>& all,
                                                         bool road) {
  std::vector<FrontFace> faces;
  for (std::size_t l = 0; l < all.size(); ++l)
    for (std::size_t i = 0; i < all[l].rays.size(); ++i)
      faces.push_back({all[l].front(i), all[l].front(all[l].next(i)), l, i});
  std::sort(faces.begin(), faces.end(), [](const FrontFace& a, const FrontFace& b) {
    return std::min(a.from.x, a.to.x) < std::min(b.from.x, b.to.x);
  });
  std::vector<std::pair<std::size_t, std::size_t>> found;
  const auto both_ends = [&](const FrontFace& f) {
    found.push_back({f.line, f.ray}), found.push_back({f.line, all[f.line].next(f.ray)});
  };
  for (std::size_t i = 0; i < faces.size(); ++i) {
    const FrontFace& a = faces[i];
    const WallColumns& c = all[a.line];
    const Vec3 along =
        c.wall.points[c.rays[c.next(a.ray)].point] - c.wall.points[c.rays[a.ray].point];
    // A front that runs back over itself has crossed rays.
    if (norm2(along) > 0 && dot(along, a.to - a.from) <= 0) both_ends(a);
    if (road && std::min(a.from.z, a.to.z) <= 0) both_ends(a);
    for (std::size_t j = i + 1; j < faces.size(); ++j) {
      const FrontFace& b = faces[j];
      if (std::min(b.from.x, b.to.x) > std::max(a.from.x, a.to.x)) break;
      if (a.line == b.line && (c.next(a.ray) == b.ray || c.next(b.ray) == a.ray)) continue;
      if (crossing(a.from, a.to, b.from, b.to).found) both_ends(a), both_ends(b);
    }
  }
  return found;
}

}  // namespace

std::vector<double> WallColumns::heights(std::size_t ray) const {
  const double thickness = rays[ray].thickness, first = rays[ray].first,
               growth = growth_for(first, layers, thickness);
  std::vector<double> h(at(layers + 1), 0);
  for (int k = 1; k <= layers; ++k)
    h[at(k)] = growth > 0 ? first * LayerOptions::sum(growth, k) : thickness * k / layers;
  h.back() = thickness;
  return h;
}

std::vector<WallColumns> wall_columns(std::vector<WallLine> walls, const LayerOptions& o,
                                      bool road) {
  if (!(o.first_height > 0) || o.count < 1)
    throw InputError("a section needs wall layers", "mesh.layers",
                     "leave the count out, or make it one at least");
  const int layers = layers_for(walls, o);
  std::vector<WallColumns> all;
  for (WallLine& wall : walls) all.push_back(columns_on(std::move(wall), layers, o));
  constexpr int most_rounds = 40;
  for (int round = 0;; ++round) {
    const auto found = clashes(all, road);
    if (found.empty()) return all;
    if (round == most_rounds) {
      const WallColumns& c = all[found[0].first];
      const Vec3& p = c.wall.points[c.rays[found[0].second].point];
      throw MeshError(
          fmt::format("there is no room for layers at x = {:.4f}, z = {:.4f} m", p.x, p.z), "mesh",
          "use a smaller size there");
    }
    for (const auto& [line, ray] : found) all[line].rays[ray].thickness *= 0.7;
    for (WallColumns& c : all) ease_front(c);
  }
}

}  // namespace dunefield
