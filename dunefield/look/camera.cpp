#include <dunefield/look/camera.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

struct NamedView {
  const char* name;
  Vec3 from;
};
const NamedView named[] = {{"three-quarter", {-1.0, -0.85, 0.5}},
                           {"rear three-quarter", {1.0, -0.85, 0.5}},
                           {"front", {-1, 0, 0.02}},
                           {"rear", {1, 0, 0.02}},
                           {"left", {0, -1, 0.02}},
                           {"right", {0, 1, 0.02}},
                           {"top", {0, 0, 1}},
                           {"below", {0, 0, -1}}};

}  // namespace

const std::vector<std::string>& view_names() {
  static const std::vector<std::string> names = [] {
    std::vector<std::string> out;
    for (const NamedView& v : named) out.emplace_back(v.name);
    return out;
  }();
  return names;
}

View named_view(const std::string& name) {
  for (const NamedView& v : named)
    if (name == v.name) {
      View view;
      view.from = v.from;
      return view;
    }
  throw InputError("there is no view '" + name + "'", "view",
                   fmt::format("use one of {}, or a direction like (-1, -0.5, 0.4)",
                               fmt::join(view_names(), ", ")));
}

Camera::Camera(const Scene& s, const PixelFrame& frame)
    : frame_(frame), perspective_(s.view.perspective && !s.flat) {
  eye_ = unit(s.view.from);
  right_ = unit(cross({0, 0, 1}, eye_));
  if (norm(cross({0, 0, 1}, eye_)) < 1e-6) right_ = {1, 0, 0};
  up_ = cross(eye_, right_);
  middle_ = std::isfinite(s.view.towards.x) ? s.view.towards : s.frame.centre();
  Box seen;  // in (right, up, eye), about the middle
  for (int k = 0; k < 8; ++k) {
    const Vec3 corner =
        Vec3{k & 1 ? s.frame.hi.x : s.frame.lo.x, k & 2 ? s.frame.hi.y : s.frame.lo.y,
             k & 4 ? s.frame.hi.z : s.frame.lo.z} -
        middle_;
    seen.include(Vec3{dot(corner, right_), dot(corner, up_), dot(corner, eye_)});
  }
  const Vec3 size = max(seen.size(), Vec3{1e-9, 1e-9, 1e-9});
  metres_per_pixel_ = std::max(size.x / frame.width, size.y / frame.height) / s.view.zoom;
  if (!std::isfinite(s.view.towards.x)) shift_x_ = seen.centre().x, shift_y_ = seen.centre().y;
  if (perspective_) {
    distance_ = 0.5 * frame.height * metres_per_pixel_ / std::tan(0.5 * s.view.field_of_view);
    distance_ += std::max(0.0, 0.5 * seen.hi.z);
  } else {
    distance_ = norm(size) + 0.5 * std::abs(seen.hi.z) + 1;
    if (s.flat)  // just before the plane, so that it is seen itself
      distance_ = dot(s.flat_point - middle_, eye_) + 1.5 * metres_per_pixel_;
  }
  at_ = middle_ + right_ * shift_x_ + up_ * shift_y_ + eye_ * distance_;
}

Camera::Ray Camera::ray(double px, double py) const {
  const double x = (px - frame_.x - 0.5 * frame_.width) * metres_per_pixel_,
               y = (frame_.y + 0.5 * frame_.height - py) * metres_per_pixel_;
  if (!perspective_) return {at_ + right_ * x + up_ * y, -eye_};
  return {at_, unit(right_ * x + up_ * y - eye_ * distance_)};
}

std::optional<Camera::Pixel> Camera::project(const Vec3& p) const {
  const Vec3 d = p - at_;
  const double away = -dot(d, eye_);
  double scale = 1 / metres_per_pixel_;
  if (perspective_) {
    if (!(away > 0)) return std::nullopt;
    scale *= distance_ / away;
  }
  return Pixel{frame_.x + 0.5 * frame_.width + dot(d, right_) * scale,
               frame_.y + 0.5 * frame_.height - dot(d, up_) * scale, perspective_ ? norm(d) : away};
}

}  // namespace dunefield
