#include <dunefield/look/vehicle_view.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

VehicleView::VehicleView(const Surface& s, const Vec3& from, const PixelFrame& frame)
    : frame_(frame) {
  eye_ = unit(from);
  right_ = unit(cross({0, 0, 1}, eye_));
  if (norm(right_) < 0.5) right_ = {0, 1, 0};
  up_ = cross(eye_, right_);
  Box seen;  // in (right, up, eye)
  for (const auto& t : s.triangles)
    for (const int i : t) {
      const Vec3& p = s.points[at(i)];
      seen.include(Vec3{dot(p, right_), dot(p, up_), dot(p, eye_)});
    }
  if (seen.empty()) seen.include(Vec3{});
  middle_ = seen.centre();
  metres_per_pixel_ = std::max({seen.size().x / frame.width, seen.size().y / frame.height, 1e-12});
  near_ = seen.hi.z + 0.5 * norm(seen.size()) + 1e-9,
  far_ = seen.lo.z - 0.5 * norm(seen.size()) - 1e-9;
}

VehicleView::Pixel VehicleView::project(const Vec3& p) const {
  return {frame_.x + 0.5 * frame_.width + (dot(p, right_) - middle_.x) / metres_per_pixel_,
          frame_.y + 0.5 * frame_.height - (dot(p, up_) - middle_.y) / metres_per_pixel_};
}

void VehicleView::draw(Canvas& canvas, const Surface& s, Colour background,
                       const std::function<Colour(int, const Vec3&)>& colour) const {
  const RayScene rays(s);
  const Vec3 light = unit(eye_ + 0.5 * up_ - 0.35 * right_);
  constexpr int samples = 2;  // each way, against jagged edges
  const int x0 = std::max(0, static_cast<int>(frame_.x) - 1),
            x1 = std::min(canvas.width(), static_cast<int>(frame_.x + frame_.width) + 2);
  const int y0 = std::max(0, static_cast<int>(frame_.y) - 1),
            y1 = std::min(canvas.height(), static_cast<int>(frame_.y + frame_.height) + 2);
  if (x1 <= x0 || y1 <= y0) return;
  struct Drawn {
    Colour colour;
    bool any = false;
  };
  const auto columns = static_cast<std::size_t>(x1 - x0);
  std::vector<Drawn> pixels(columns * static_cast<std::size_t>(y1 - y0));
  parallel_for(
      static_cast<std::size_t>(y1 - y0),
      [&](std::size_t row) {
        for (std::size_t column = 0; column < columns; ++column) {
          Colour sum;
          Drawn& out = pixels[row * columns + column];
          for (int sub = 0; sub < samples * samples; ++sub) {
            const int i = sub % samples, j = sub / samples;
            const double px = x0 + static_cast<double>(column) + (i + 0.5) / samples,
                         py = y0 + static_cast<double>(row) + (j + 0.5) / samples;
            const double x = middle_.x + (px - frame_.x - 0.5 * frame_.width) * metres_per_pixel_,
                         y = middle_.y - (py - frame_.y - 0.5 * frame_.height) * metres_per_pixel_;
            const Vec3 foot = right_ * x + up_ * y;
            Colour c = background;
            if (const auto hit = rays.first_crossing(foot + eye_ * near_, foot + eye_ * far_)) {
              const double lit = 0.62 + 0.38 * std::abs(dot(hit->normal, light));
              const Colour base = colour(hit->triangle, hit->point);
              c = {base.r * lit, base.g * lit, base.b * lit};
              out.any = true;
            }
            sum.r += c.r, sum.g += c.g, sum.b += c.b;
          }
          constexpr double share = 1.0 / (samples * samples);
          out.colour = {sum.r * share, sum.g * share, sum.b * share};
        }
      },
      16);
  for (int y = y0; y < y1; ++y)
    for (int x = x0; x < x1; ++x)
      if (const Drawn& d = pixels[at(y - y0) * columns + static_cast<std::size_t>(x - x0)]; d.any)
        canvas.set_pixel(x, y, d.colour);
}

}  // namespace dunefield
