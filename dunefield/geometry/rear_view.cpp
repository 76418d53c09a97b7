#include <dunefield/geometry/rear_view.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr double blunt_from = 60 * degree, slanted_from = 20 * degree, slanted_to = 32 * degree,
                 tapered_from = 6 * degree;

/// Points on a plane across the stream, each with the rearmost triangle that it sees.
class DepthImage {
 public:
  DepthImage(const Surface& s, const Box& box, int across)
      : s_(s), y_(box.lo.y), z_(std::max(box.lo.z, 0.0)) {
    step_ = std::max(box.size().y, box.hi.z - z_) / across;
    if (!(step_ > 0) || box.hi.z <= z_) return;
    columns_ = static_cast<int>(box.size().y / step_) + 1;
    rows_ = static_cast<int>((box.hi.z - z_) / step_) + 1;
    seen_.assign(at(columns_) * at(rows_), {-1e300, -1});
    for (std::size_t t = 0; t < s.size(); ++t) draw(t);
  }
  struct Seen {
    double x;
    int triangle;  ///< or -1
  };
  const std::vector<Seen>& seen() const { return seen_; }

 private:
  /// First and last point between two places.
  std::array<int, 2> between(double a, double b, double origin, int count) const {
    return {std::max(0, static_cast<int>(std::ceil((a - origin) / step_ - 0.5))),
            std::min(count - 1, static_cast<int>(std::floor((b - origin) / step_ - 0.5)))};
  }
  void draw(std::size_t t) {
    const Vec3 &a = s_.corner(t, 0), &b = s_.corner(t, 1), &c = s_.corner(t, 2);
    const double area = (b.y - a.y) * (c.z - a.z) - (b.z - a.z) * (c.y - a.y);
    if (area == 0) return;
    const auto columns =
        between(std::min({a.y, b.y, c.y}), std::max({a.y, b.y, c.y}), y_, columns_);
    const auto rows = between(std::min({a.z, b.z, c.z}), std::max({a.z, b.z, c.z}), z_, rows_);
    for (int r = rows[0]; r <= rows[1]; ++r)
      for (int k = columns[0]; k <= columns[1]; ++k) {
        const double y = y_ + (k + 0.5) * step_ - a.y, z = z_ + (r + 0.5) * step_ - a.z,
                     to_b = (y * (c.z - a.z) - z * (c.y - a.y)) / area,
                     to_c = ((b.y - a.y) * z - (b.z - a.z) * y) / area;
        if (to_b < 0 || to_c < 0 || to_b + to_c > 1) continue;
        Seen& seen = seen_[at(r) * at(columns_) + at(k)];
        const double x = a.x + to_b * (b.x - a.x) + to_c * (c.x - a.x);
        if (x > seen.x) seen = {x, static_cast<int>(t)};
      }
  }

  const Surface& s_;
  double y_, z_, step_ = 0;
  int columns_ = 0, rows_ = 0;
  std::vector<Seen> seen_;
};

}  // namespace

RearView rear_view(const Surface& s, int points_across) {
  RearView out;
  const Box box = bounds(s);
  if (box.empty()) return out;
  const DepthImage image(s, box, points_across);
  double all = 0;
  for (const auto& [x, triangle] : image.seen()) {
    if (triangle < 0) continue;
    Vec3 normal = unit(s.area_vector(at(triangle)));
    if (normal.x < 0) normal = -normal;
    const double angle = std::asin(std::min(1.0, normal.x));
    all += 1;
    if (angle >= blunt_from) out.blunt += 1;
    if (x < box.centre().x) continue;
    if (angle >= slanted_from && angle <= slanted_to && normal.z > 0.5)
      out.slanted += 1, out.slant += angle;
    if (angle >= tapered_from && angle < slanted_from) out.tapered += 1;
  }
  if (out.slanted > 0) out.slant /= out.slanted;
  for (double* share : {&out.blunt, &out.slanted, &out.tapered}) *share /= std::max(1.0, all);
  return out;
}

}  // namespace dunefield
