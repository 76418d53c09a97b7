// Pieces that several of the made-up vehicles are built from.
#pragma once

#include <array>
#include <cmath>
#include <numbers>
#include <string>
#include <vector>

#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield::garage {

/// Piecewise cubic through the points with slopes by central differences (Catmull and Rom 1974).
inline double through(const std::vector<std::array<double, 2>>& at, double x) {
  std::size_t i = 0;
  while (i + 2 < at.size() && x > at[i + 1][0]) ++i;
  const auto slope = [&](std::size_t k) {
    const std::size_t a = k == 0 ? 0 : k - 1, b = std::min(k + 1, at.size() - 1);
    return (at[b][1] - at[a][1]) / (at[b][0] - at[a][0]);
  };
  const double h = at[i + 1][0] - at[i][0], t = std::clamp((x - at[i][0]) / h, 0.0, 1.0);
  return at[i][1] * (2 * t * t * t - 3 * t * t + 1) + at[i + 1][1] * (3 * t * t - 2 * t * t * t) +
         h * (slope(i) * (t * t * t - 2 * t * t + t) + slope(i + 1) * (t * t * t - t * t));
}

/// A closed superellipse in the plane x = const: middle, half width, half height, exponent (2:
/// ellipse, larger: boxier).
inline std::vector<Vec3> superellipse(double x, double y, double z, double half_width,
                                      double half_height, double exponent, int points = 64) {
  std::vector<Vec3> ring;
  for (int i = 0; i < points; ++i) {
    const double a = 2 * std::numbers::pi * i / points, c = std::cos(a), s = std::sin(a);
    ring.push_back({x, y + half_width * std::copysign(std::pow(std::abs(c), 2 / exponent), c),
                    z + half_height * std::copysign(std::pow(std::abs(s), 2 / exponent), s)});
  }
  return ring;
}

/// A station of a streamlined body: where, how wide, from which height to which.
struct Station {
  double x, half_width, bottom, top, exponent = 2.5;
  double y = 0;
};

/// A skin through stations, with `between` rings for each gap, cubic in every measure.
inline Surface body_through(const std::string& part, const std::vector<Station>& stations,
                            int between = 8, int points = 64) {
  std::vector<std::array<double, 2>> width, bottom, top, exponent, y;
  for (const Station& s : stations)
    width.push_back({s.x, s.half_width}), bottom.push_back({s.x, s.bottom}),
        top.push_back({s.x, s.top}), exponent.push_back({s.x, s.exponent}), y.push_back({s.x, s.y});
  std::vector<std::vector<Vec3>> rings;
  const int gaps = static_cast<int>(stations.size()) - 1;
  for (int i = 0; i <= gaps * between; ++i) {
    const auto k = static_cast<std::size_t>(std::min(i / between, gaps - 1));
    const double share = i / static_cast<double>(between) - static_cast<double>(k),
                 x = stations[k].x + (stations[k + 1].x - stations[k].x) * share;
    const double lo = through(bottom, x), hi = std::max(through(top, x), lo + 0.002);
    rings.push_back(superellipse(x, through(y, x), 0.5 * (lo + hi),
                                 std::max(0.001, through(width, x)), 0.5 * (hi - lo),
                                 std::max(1.5, through(exponent, x)), points));
  }
  return loft(part, rings);
}

/// A tyre with a rim set back a little on both sides; the axle lies along `axis`.
inline Surface road_wheel(const std::string& part, const Vec3& centre, double radius, double width,
                          const Vec3& axis = {0, 1, 0}, int segments = 72) {
  const double half = 0.5 * width, shoulder = 0.16 * width, rim = 0.66 * radius, back = 0.1 * width;
  std::vector<std::array<double, 2>> side = {{-half + back, 0},
                                             {-half + back, 0.35 * radius},
                                             {-half + 1.2 * back, 0.95 * rim},
                                             {-half + 0.15 * back, rim},
                                             {-half, 0.5 * (rim + radius)}};
  for (int i = 0; i <= 6; ++i) {
    const double a = 0.5 * std::numbers::pi * i / 6;
    side.push_back({-half + shoulder * (1 - std::cos(a)), radius - shoulder * (1 - std::sin(a))});
  }
  std::vector<std::array<double, 2>> profile = side;
  for (std::size_t i = side.size(); i-- > 0;) profile.push_back({-side[i][0], side[i][1]});
  return revolve(part, profile, centre, axis, segments);
}

/// Adds a shape to the part of that name of a vehicle.
inline void add(Surface& vehicle, Surface shape, const std::string& part) {
  shape.part_names = {part};
  append(vehicle, shape);
}

/// Adds a shape and its mirror image, as parts "name left" and "name right" (the shape given is the
/// right one).
inline void add_pair(Surface& vehicle, const Surface& right, const std::string& part) {
  add(vehicle, mirrored(right), part + " left");
  add(vehicle, right, part + " right");
}

}  // namespace dunefield::garage
