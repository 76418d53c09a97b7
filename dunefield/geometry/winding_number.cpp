#include <dunefield/geometry/winding_number.hpp>

#include <numbers>

namespace dunefield {
namespace {

constexpr int leaf_triangles = 8;
constexpr double far_ratio = 2.3;  // distance over radius beyond which the dipole stands for the node

using Triangle = std::array<Vec3, 3>;

Vec3 centroid(const Triangle& t) { return (t[0] + t[1] + t[2]) / 3.0; }

/// Solid angle of a triangle seen from the origin (van Oosterom and Strackee 1983).
double solid_angle(const Vec3& a, const Vec3& b, const Vec3& c) {
  const double la = norm(a), lb = norm(b), lc = norm(c);
  const double numerator = dot(a, cross(b, c));
  const double denominator = la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb;
  return 2.0 * std::atan2(numerator, denominator);
}

}  // namespace

WindingNumber::WindingNumber(const Surface& surface, std::vector<int> triangles) {
  triangles_.reserve(triangles.size());
  for (const int t : triangles) {
    const auto i = static_cast<std::size_t>(t);
    triangles_.push_back({surface.corner(i, 0), surface.corner(i, 1), surface.corner(i, 2)});
    for (const Vec3& p : triangles_.back()) box_.include(p);
  }
  if (!triangles_.empty()) build(0, static_cast<int>(triangles_.size()));
}

int WindingNumber::build(int first, int count) {
  const int id = static_cast<int>(nodes_.size());
  nodes_.emplace_back();
  Node node;
  node.first = first, node.count = count;
  const auto begin = triangles_.begin() + first, end = begin + count;
  double area = 0;
  Box box;
  for (auto t = begin; t != end; ++t) {
    const Vec3 s = 0.5 * cross((*t)[1] - (*t)[0], (*t)[2] - (*t)[0]);
    const double a = norm(s);
    node.dipole += s;
    node.centre += a * centroid(*t);
    area += a;
    box.include(centroid(*t));
  }
  node.centre = area > 0 ? node.centre / area : box.centre();
  for (auto t = begin; t != end; ++t)
    for (const Vec3& p : *t) node.radius = std::max(node.radius, norm(p - node.centre));
  if (count > leaf_triangles) {
    const Vec3 size = box.size();
    const int axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
    std::nth_element(begin, begin + count / 2, end,
                     [axis](const Triangle& a, const Triangle& b) { return centroid(a)[axis] < centroid(b)[axis]; });
    node.left = build(first, count / 2);
    node.right = build(first + count / 2, count - count / 2);
  }
  nodes_[static_cast<std::size_t>(id)] = node;
  return id;
}

double WindingNumber::visit(int id, const Vec3& p) const {
  const Node& node = nodes_[static_cast<std::size_t>(id)];
  const Vec3 r = node.centre - p;
  const double d2 = norm2(r);
  if (d2 > far_ratio * far_ratio * node.radius * node.radius) return dot(node.dipole, r) / (d2 * std::sqrt(d2));
  if (node.left >= 0) return visit(node.left, p) + visit(node.right, p);
  double sum = 0;
  for (int i = node.first; i < node.first + node.count; ++i) {
    const Triangle& t = triangles_[static_cast<std::size_t>(i)];
    sum += solid_angle(t[0] - p, t[1] - p, t[2] - p);
  }
  return sum;
}

double WindingNumber::at(const Vec3& p) const { return nodes_.empty() ? 0.0 : visit(0, p) / (4.0 * std::numbers::pi); }

}  // namespace dunefield
