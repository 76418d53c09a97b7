#include <dunefield/look/plane_raster.hpp>

#include <algorithm>
#include <cmath>
#include <cstdint>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

/// The same noise everywhere on every machine, from 0 to 1.
double noise(std::uint32_t x, std::uint32_t y) {
  std::uint32_t h = x * 0x8da6b343u ^ y * 0xd8163841u;
  h ^= h >> 13, h *= 0x9e3779b1u, h ^= h >> 16;
  return static_cast<double>(h) / 4294967295.0;
}

struct Flat {
  double x = 0, y = 0;
};

/// Streaks through the pixels of a raster.
class Streaks {
 public:
  Streaks(const PlaneRaster& r, double length) : r_(r), half_(0.5 * length) {
    way_.resize(r.value.size());
    double fastest = 0;
    for (std::size_t i = 0; i < way_.size(); ++i) {
      way_[i] = {dot(r.value[i], r.across), dot(r.value[i], r.up)};
      fastest = std::max(fastest, std::hypot(way_[i].x, way_[i].y));
    }
    for (Flat& w : way_) {
      const double size = std::hypot(w.x, w.y);
      w = size > 1e-6 * fastest ? Flat{w.x / size, w.y / size} : Flat{};
    }
  }
  float at(int x, int y) const {
    double sum = noise(static_cast<std::uint32_t>(x), static_cast<std::uint32_t>(y)), weight = 1;
    for (const double sign : {1.0, -1.0}) follow(x, y, sign, sum, weight);
    return static_cast<float>(sum / weight);
  }

 private:
  void follow(int x0, int y0, double sign, double& sum, double& weight) const {
    double x = x0, y = y0;
    for (double way = 0; way < half_; way += 1) {
      const Flat* w = way_at(x, y);
      if (!w) return;
      // Second order: half a step on.
      const Flat* mid = way_at(x + 0.5 * sign * w->x, y + 0.5 * sign * w->y);
      if (!mid || (mid->x == 0 && mid->y == 0)) return;
      x += sign * mid->x, y += sign * mid->y;
      const int i = static_cast<int>(std::lround(x)), j = static_cast<int>(std::lround(y));
      if (!r_.inside(i, j) || !r_.there[r_.index(i, j)]) return;
      sum += noise(static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(j)), weight += 1;
    }
  }
  const Flat* way_at(double x, double y) const {
    const int i = static_cast<int>(std::lround(x)), j = static_cast<int>(std::lround(y));
    return r_.inside(i, j) && r_.there[r_.index(i, j)] ? &way_[r_.index(i, j)] : nullptr;
  }

  const PlaneRaster& r_;
  double half_;
  std::vector<Flat> way_;
};

}  // namespace

PlaneRaster rastered(const Sheet& sheet, const std::vector<Vec3>& values, const Plane& plane,
                     const Box& frame, double pixel) {
  const PlaneAxes axes(plane.normal);
  PlaneRaster r;
  r.across = axes.across, r.up = axes.up, r.pixel = pixel;
  Box flat;  // (across, up) of the frame's corners
  for (int k = 0; k < 8; ++k) {
    const Vec3 p{k & 1 ? frame.hi.x : frame.lo.x, k & 2 ? frame.hi.y : frame.lo.y,
                 k & 4 ? frame.hi.z : frame.lo.z};
    flat.include(Vec3{dot(p, axes.across), dot(p, axes.up), 0});
  }
  r.corner =
      axes.across * flat.lo.x + axes.up * flat.lo.y + plane.normal * dot(plane.point, plane.normal);
  r.width = std::max(1, static_cast<int>(flat.size().x / pixel)) + 1;
  r.height = std::max(1, static_cast<int>(flat.size().y / pixel)) + 1;
  r.value.assign(r.index(0, r.height), {});
  r.there.assign(r.value.size(), 0);
  for (const auto& t : sheet.triangles) {
    Flat c[3];
    for (int k = 0; k < 3; ++k) {
      const Vec3 d = sheet.points[at(t[at(k)])] - r.corner;
      c[k] = {dot(d, r.across) / pixel, dot(d, r.up) / pixel};
    }
    const double twice =
        (c[1].x - c[0].x) * (c[2].y - c[0].y) - (c[2].x - c[0].x) * (c[1].y - c[0].y);
    if (std::abs(twice) < 1e-12) continue;
    const int x0 = std::max(0, static_cast<int>(std::floor(std::min({c[0].x, c[1].x, c[2].x})))),
              x1 = std::min(r.width - 1,
                            static_cast<int>(std::ceil(std::max({c[0].x, c[1].x, c[2].x})))),
              y0 = std::max(0, static_cast<int>(std::floor(std::min({c[0].y, c[1].y, c[2].y})))),
              y1 = std::min(r.height - 1,
                            static_cast<int>(std::ceil(std::max({c[0].y, c[1].y, c[2].y}))));
    for (int y = y0; y <= y1; ++y)
      for (int x = x0; x <= x1; ++x) {
        double w[3];
        w[1] = ((x - c[0].x) * (c[2].y - c[0].y) - (c[2].x - c[0].x) * (y - c[0].y)) / twice;
        w[2] = ((c[1].x - c[0].x) * (y - c[0].y) - (x - c[0].x) * (c[1].y - c[0].y)) / twice;
        w[0] = 1 - w[1] - w[2];
        if (std::min({w[0], w[1], w[2]}) < -1e-9) continue;
        Vec3 v;
        for (int k = 0; k < 3; ++k) v += values[at(t[at(k)])] * w[k];
        r.value[r.index(x, y)] = v, r.there[r.index(x, y)] = 1;
      }
  }
  return r;
}

PlaneTexture flow_texture(const PlaneRaster& velocity, double length) {
  PlaneTexture t;
  t.corner = velocity.corner, t.across = velocity.across, t.up = velocity.up;
  t.pixel = velocity.pixel, t.width = velocity.width, t.height = velocity.height;
  t.shade.assign(velocity.value.size(), 1);
  const Streaks streaks(velocity, length);
  parallel_for(
      static_cast<std::size_t>(velocity.height),
      [&](std::size_t y) {
        for (int x = 0; x < velocity.width; ++x) {
          const std::size_t i = velocity.index(x, static_cast<int>(y));
          if (!velocity.there[i]) continue;
          // The mean of n numbers spreads by 0.29 over the root of n: what is left is stretched.
          const float mean = streaks.at(x, static_cast<int>(y));
          const float spread = 0.29f / std::sqrt(static_cast<float>(std::max(4.0, length)));
          t.shade[i] = std::clamp(0.98f + 0.12f * (mean - 0.5f) / spread, 0.6f, 1.2f);
        }
      },
      8);
  return t;
}

double PlaneTexture::at(const Vec3& p) const {
  const Vec3 d = p - corner;
  const double x = dot(d, across) / pixel, y = dot(d, up) / pixel;
  const int i = static_cast<int>(std::floor(x)), j = static_cast<int>(std::floor(y));
  if (i < 0 || j < 0 || i + 1 >= width || j + 1 >= height) return 1;
  const double s = x - i, t = y - j;
  const auto shade_at = [&](int a, int b) {
    return static_cast<double>(shade[static_cast<std::size_t>(b) * static_cast<std::size_t>(width) +
                                     static_cast<std::size_t>(a)]);
  };
  return (1 - t) * ((1 - s) * shade_at(i, j) + s * shade_at(i + 1, j)) +
         t * ((1 - s) * shade_at(i, j + 1) + s * shade_at(i + 1, j + 1));
}

}  // namespace dunefield
