#include <dunefield/geometry/query/winding_number.hpp>

#include <array>
#include <numbers>

#include <dunefield/base/float8_math.hpp>
#include <dunefield/geometry/query/spatial_order.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// distance over radius beyond which the dipole stands for a group (Barill et al. 2018)
constexpr double far_ratio = 2.0;

/// Arc tangent of 0 <= t <= 1 to 2e-8 (Abramowitz and Stegun 1964, 4.4.49).
Float8 arc_tangent(Float8 t) {
  const Float8 s = t * t;
  Float8 r = s * 0.0028662257f - 0.0161657367f;
  for (const float c : {0.0429096138f, -0.0752896400f, 0.1065626393f, -0.1420889944f, 0.1999355085f,
                        -0.3333314528f, 1.0f})
    r = r * s + c;
  return r * t;
}

/// The angle of the points (x, y) in the plane; that of the origin is 0.
Float8 angle(Float8 y, Float8 x) {
  constexpr float pi = std::numbers::pi_v<float>;
  const Float8 ax = absolute(x), ay = absolute(y);
  const Int8 steep = ay > ax;
  const Float8 a = arc_tangent((steep ? ax : ay) / ((steep ? ay : ax) + 1e-37f));
  const Float8 first = steep ? pi / 2 - a : a;
  const Float8 upper = x < 0 ? pi - first : first;
  return y < 0 ? -upper : upper;
}

Float8 product(const Float8* a, const Float8* b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

/// Solid angles of eight triangles seen from the origin (van Oosterom and Strackee 1983).
Float8 solid_angle(const Float8* a, const Float8* b, const Float8* c) {
  const Float8 la = square_root(product(a, a)), lb = square_root(product(b, b)),
               lc = square_root(product(c, c));
  const Float8 n[3] = {b[1] * c[2] - b[2] * c[1], b[2] * c[0] - b[0] * c[2],
                       b[0] * c[1] - b[1] * c[0]};
  return 2 * angle(product(a, n),
                   la * lb * lc + product(a, b) * lc + product(b, c) * la + product(c, a) * lb);
}

template <class T>
void prefetch(const T& item) {
  for (std::size_t at = 0; at < sizeof(T); at += 64)
    __builtin_prefetch(reinterpret_cast<const char*>(&item) + at);
}

/// What a group of triangles is from far away.
struct Far {
  Vec3 area, centre;
  double weight = 0, radius = 0;
};

}  // namespace

void WindingNumber::make_groups(const Surface& surface, const std::vector<int>& triangles,
                                const std::vector<char>& turned) {
  std::vector<Place> middle(triangles.size());
  for (std::size_t i = 0; i < middle.size(); ++i) {
    const Vec3 c = surface.centroid(static_cast<std::size_t>(triangles[i]));
    middle[i] = {static_cast<float>(c.x), static_cast<float>(c.y), static_cast<float>(c.z)};
  }
  const std::vector<std::int32_t> order = spatial_order(middle);
  groups_.resize((triangles.size() + width - 1) / width);
  parallel_for(
      groups_.size(),
      [&](std::size_t g) {
        Group& group = groups_[g];
        group = {};  // lanes without a triangle hold one without a size
        for (std::size_t k = 0; k < width && g * width + k < order.size(); ++k) {
          const auto t =
              static_cast<std::size_t>(triangles[static_cast<std::size_t>(order[g * width + k])]);
          if (k == 0) group.origin = surface.centroid(t);
          const int turn = !turned.empty() && turned[t];
          const int corners[3] = {0, 1 + turn, 2 - turn};
          for (int c = 0; c < 3; ++c) {
            const Vec3 from = surface.corner(t, corners[c]) - group.origin;
            for (int i = 0; i < 3; ++i) group.corner[c][i][k] = static_cast<float>(from[i]);
          }
        }
      },
      4096);
}

WindingNumber::WindingNumber(const Surface& surface, const std::vector<int>& triangles,
                             const std::vector<char>& turned) {
  if (triangles.empty()) return;
  for (const int t : triangles)
    for (int c = 0; c < 3; ++c) box_.include(surface.corner(static_cast<std::size_t>(t), c));
  make_groups(surface, triangles, turned);
  std::vector<Far> below(groups_.size());
  parallel_for(
      groups_.size(),
      [&](std::size_t g) {
        Far& f = below[g];
        Vec3 corner[width][3];
        for (int k = 0; k < width; ++k) {
          for (int c = 0; c < 3; ++c)
            for (int i = 0; i < 3; ++i) corner[k][c][i] = groups_[g].corner[c][i][k];
          const Vec3 area = 0.5 * cross(corner[k][1] - corner[k][0], corner[k][2] - corner[k][0]);
          f.area += area;
          f.centre += (corner[k][0] + corner[k][1] + corner[k][2]) * (norm(area) / 3.0);
          f.weight += norm(area);
        }
        if (f.weight > 0) f.centre = f.centre / f.weight;
        for (int k = 0; k < width; ++k)
          if (norm(cross(corner[k][1] - corner[k][0], corner[k][2] - corner[k][0])) > 0)
            for (int c = 0; c < 3; ++c)
              f.radius = std::max(f.radius, norm(corner[k][c] - f.centre));
        f.centre += groups_[g].origin;
      },
      4096);
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
        for (int axis = 0; axis < 3; ++axis) {
          node.centre[axis][c - first] = static_cast<float>(f.centre[axis]);
          node.area[axis][c - first] = static_cast<float>(f.area[axis]);
        }
        node.far2[c - first] = static_cast<float>(std::pow(far_ratio * f.radius, 2) * (1 + 1e-5));
        sum.area += f.area;
        sum.centre += f.centre * f.weight;
        sum.weight += f.weight;
      }
      sum.centre = sum.weight > 0 ? sum.centre / sum.weight : below[first].centre;
      for (std::size_t c = first; c < last; ++c)
        sum.radius = std::max(sum.radius, norm(below[c].centre - sum.centre) + below[c].radius);
      nodes_.push_back(node);
    }
    below = std::move(level);
  } while (below.size() > 1);
}

Float8 WindingNumber::seen_from(const Vec3& p, const Group& g) {
  const auto x = static_cast<float>(g.origin.x - p.x), y = static_cast<float>(g.origin.y - p.y),
             z = static_cast<float>(g.origin.z - p.z);
  Float8 corner[3][3];
  for (int c = 0; c < 3; ++c)
    corner[c][0] = g.corner[c][0] + x, corner[c][1] = g.corner[c][1] + y,
    corner[c][2] = g.corner[c][2] + z;
  return solid_angle(corner[0], corner[1], corner[2]);
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
  const auto px = static_cast<float>(p.x), py = static_cast<float>(p.y),
             pz = static_cast<float>(p.z);
  Float8 angles{};
  // Memory's latency is the limit: what is near is asked for first and looked at later.
  std::array<std::int64_t, 32> near;
  std::size_t waiting = 0;
  const auto take_near = [&] {
    for (std::size_t i = 0; i < waiting; ++i)
      angles += seen_from(p, groups_[static_cast<std::size_t>(near[i])]);
    waiting = 0;
  };
  while (top > 0) {
    const Entry e = stack[--top];
    const auto level = static_cast<std::size_t>(e.level);
    const Node& n = nodes_[static_cast<std::size_t>(level_start_[level] + e.node)];
    const Float8 x = n.centre[0] - px, y = n.centre[1] - py, z = n.centre[2] - pz;
    const Float8 d2 = x * x + y * y + z * z;
    const Int8 far = d2 > n.far2;
    angles +=
        far ? (n.area[0] * x + n.area[1] * y + n.area[2] * z) / (d2 * square_root(d2) + 1e-30f)
            : Float8{};
    const auto count =
        static_cast<unsigned>(std::min<std::int64_t>(width, level_size_[level] - e.node * width));
    for (unsigned lanes = ~lanes_of(far) & ((1u << count) - 1); lanes; lanes &= lanes - 1) {
      const std::int64_t child = e.node * width + std::countr_zero(lanes);
      if (e.level > 0) {
        prefetch(nodes_[static_cast<std::size_t>(level_start_[level - 1] + child)]);
        stack[top++] = {e.level - 1, child};
        continue;
      }
      prefetch(groups_[static_cast<std::size_t>(child)]);
      near[waiting++] = child;
      if (waiting == near.size()) take_near();
    }
  }
  take_near();
  return static_cast<double>(sum(angles)) / (4.0 * std::numbers::pi);
}

}  // namespace dunefield
