#include <dunefield/geometry/winding_number.hpp>

#include <numbers>

#include <dunefield/geometry/spatial_order.hpp>

namespace dunefield {
namespace {

constexpr double far_ratio = 2.3;           // distance over radius beyond which the dipole stands for a group
constexpr double triangle_far_ratio = 1.5;  // the same for a single triangle: what is off by it is seen by its neighbours

/// Solid angle of a triangle seen from the origin (van Oosterom and Strackee 1983).
double solid_angle(const Vec3& a, const Vec3& b, const Vec3& c) {
  const double la = norm(a), lb = norm(b), lc = norm(c);
  const double numerator = dot(a, cross(b, c));
  const double denominator = la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb;
  return 2.0 * std::atan2(numerator, denominator);
}

/// What a group of triangles is from far away.
struct Far {
  Vec3 area, centre;
  double weight = 0, radius = 0;
};

}  // namespace

WindingNumber::WindingNumber(const Surface& surface, const std::vector<int>& triangles, const std::vector<char>& turned) {
  if (triangles.empty()) return;
  std::vector<Place> middle;
  middle.reserve(triangles.size());
  for (const int t : triangles) {
    const Vec3 c = surface.centroid(static_cast<std::size_t>(t));
    middle.push_back({static_cast<float>(c.x), static_cast<float>(c.y), static_cast<float>(c.z)});
  }
  for (const std::int32_t i : spatial_order(middle)) {
    const auto t = static_cast<std::size_t>(triangles[static_cast<std::size_t>(i)]);
    const int turn = !turned.empty() && turned[t];
    triangles_.push_back({surface.corner(t, 0), surface.corner(t, 1 + turn), surface.corner(t, 2 - turn)});
    for (const Vec3& p : triangles_.back()) box_.include(p);
  }
  std::vector<Far> below(triangles_.size());
  for (std::size_t i = 0; i < below.size(); ++i) {
    const auto& t = triangles_[i];
    Far& f = below[i];
    f.area = 0.5 * cross(t[1] - t[0], t[2] - t[0]);
    f.centre = (t[0] + t[1] + t[2]) / 3.0;
    f.weight = norm(f.area);
    for (const Vec3& p : t) f.radius = std::max(f.radius, norm(p - f.centre));
  }
  do {
    std::vector<Far> level((below.size() + width - 1) / width);
    level_start_.push_back(static_cast<std::int64_t>(nodes_.size()));
    level_size_.push_back(static_cast<std::int64_t>(below.size()));
    for (std::size_t i = 0; i < level.size(); ++i) {
      Node node{};
      Far& sum = level[i];
      const std::size_t first = i * width, last = std::min(first + width, below.size());
      for (std::size_t c = first; c < last; ++c) {
        const Far& f = below[c];
        const std::size_t k = c - first;
        node.x[k] = static_cast<float>(f.centre.x), node.y[k] = static_cast<float>(f.centre.y), node.z[k] = static_cast<float>(f.centre.z);
        node.nx[k] = static_cast<float>(f.area.x), node.ny[k] = static_cast<float>(f.area.y), node.nz[k] = static_cast<float>(f.area.z);
        node.far2[k] = static_cast<float>(std::pow((level_start_.size() == 1 ? triangle_far_ratio : far_ratio) * f.radius, 2) * (1 + 1e-5));
        sum.area += f.area;
        sum.centre += f.centre * f.weight;
        sum.weight += f.weight;
      }
      sum.centre = sum.weight > 0 ? sum.centre / sum.weight : below[first].centre;
      for (std::size_t c = first; c < last; ++c) sum.radius = std::max(sum.radius, norm(below[c].centre - sum.centre) + below[c].radius);
      nodes_.push_back(node);
    }
    below = std::move(level);
  } while (below.size() > 1);
}

double WindingNumber::at(const Vec3& p) const {
  if (nodes_.empty()) return 0;
  struct Entry {
    int level;
    std::int64_t node;
  };
  Entry stack[128];
  int top = 0;
  stack[top++] = {static_cast<int>(level_start_.size()) - 1, 0};
  const auto px = static_cast<float>(p.x), py = static_cast<float>(p.y), pz = static_cast<float>(p.z);
  double sum = 0;
  while (top > 0) {
    const Entry e = stack[--top];
    const auto level = static_cast<std::size_t>(e.level);
    const Node& n = nodes_[static_cast<std::size_t>(level_start_[level] + e.node)];
    float part[width], d2[width];
    for (int k = 0; k < width; ++k) {
      const float x = n.x[k] - px, y = n.y[k] - py, z = n.z[k] - pz;
      d2[k] = x * x + y * y + z * z;
      part[k] = (n.nx[k] * x + n.ny[k] * y + n.nz[k] * z) / (d2[k] * std::sqrt(d2[k]) + 1e-30f);
    }
    const int count = static_cast<int>(std::min<std::int64_t>(width, level_size_[level] - e.node * width));
    for (int k = 0; k < count; ++k) {
      if (d2[k] > n.far2[k]) {
        sum += static_cast<double>(part[k]);
      } else if (e.level > 0) {
        stack[top++] = {e.level - 1, e.node * width + k};
      } else {
        const auto& t = triangles_[static_cast<std::size_t>(e.node * width + k)];
        sum += solid_angle(t[0] - p, t[1] - p, t[2] - p);
      }
    }
  }
  return sum / (4.0 * std::numbers::pi);
}

}  // namespace dunefield
