#include <dunefield/geometry/query/nearest_tree.hpp>

#include <dunefield/base/float8_math.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/spatial_order.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

Float8 clamp(Float8 t) {
  t = t > 0 ? t : Float8{};
  return t < 1 ? t : Float8{} + 1;
}

/// Square of the distance of the origin from the segments p + t e, 0 <= t <= 1.
Float8 to_segment2(const Float8* p, const Float8* e) {
  const Float8 t = clamp(-(p[0] * e[0] + p[1] * e[1] + p[2] * e[2]) /
                         (e[0] * e[0] + e[1] * e[1] + e[2] * e[2] + 1e-30f));
  const Float8 x = p[0] + t * e[0], y = p[1] + t * e[1], z = p[2] + t * e[2];
  return x * x + y * y + z * z;
}

/// Square of the distance of the origin from eight triangles with a corner at `a` and the edges
/// `ab`, `ac`.
Float8 to_triangle2(const Float8* a, const Float8* ab, const Float8* ac) {
  const Float8 n[3] = {ab[1] * ac[2] - ab[2] * ac[1], ab[2] * ac[0] - ab[0] * ac[2],
                       ab[0] * ac[1] - ab[1] * ac[0]};
  const Float8 b[3] = {a[0] + ab[0], a[1] + ab[1], a[2] + ab[2]},
               bc[3] = {ac[0] - ab[0], ac[1] - ab[1], ac[2] - ab[2]};
  const Float8 d1 = to_segment2(a, ab), d2 = to_segment2(a, ac), d3 = to_segment2(b, bc);
  Float8 best = d1 < d2 ? d1 : d2;
  best = best < d3 ? best : d3;
  // Where the foot of the perpendicular lies inside, the plane is nearest. Edge functions of the
  // foot:
  const Float8 nn = n[0] * n[0] + n[1] * n[1] + n[2] * n[2];
  const auto side = [&](const Float8* p, const Float8* e) {  // n . (e x (-p))
    return n[0] * (e[2] * p[1] - e[1] * p[2]) + n[1] * (e[0] * p[2] - e[2] * p[0]) +
           n[2] * (e[1] * p[0] - e[0] * p[1]);
  };
  const Float8 s1 = side(a, ab), s2 = side(b, bc), s3 = -side(a, ac);
  const Float8 height = a[0] * n[0] + a[1] * n[1] + a[2] * n[2],
               plane2 = height * height / (nn + 1e-30f);
  // Of a triangle without width the normal says nothing: its sides are all there is.
  const Float8 wide = (ab[0] * ab[0] + ab[1] * ab[1] + ab[2] * ab[2]) *
                      (ac[0] * ac[0] + ac[1] * ac[1] + ac[2] * ac[2]);
  const Int8 inside = (s1 >= 0) & (s2 >= 0) & (s3 >= 0) & (nn > 1e-7f * wide);
  return inside ? plane2 : best;
}

/// A share of an edge; of an edge without length none.
double share(double part, double whole) { return whole > 0 ? part / whole : 0; }

Vec3 nearest_on_segment(const Vec3& p, const Vec3& a, const Vec3& b) {
  const Vec3 e = b - a;
  return a + e * std::clamp(share(dot(p - a, e), norm2(e)), 0.0, 1.0);
}

/// Of a triangle without width: its sides are all there is.
Vec3 nearest_on_sides(const Vec3& p, const std::array<Vec3, 3>& corner) {
  Vec3 best = corner[0];
  for (std::size_t k = 0; k < 3; ++k) {
    const Vec3 q = nearest_on_segment(p, corner[k], corner[(k + 1) % 3]);
    if (norm2(q - p) < norm2(best - p)) best = q;
  }
  return best;
}

constexpr float nowhere = 1e17f;    // where lanes without a box are
constexpr double farthest2 = 1e32;  // square of the longest reach: short of that

}  // namespace

Vec3 nearest_on_triangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c) {
  const Vec3 ab = b - a, ac = c - a, ap = p - a;
  constexpr double no_width2 = 1e-14;
  if (norm2(cross(ab, ac)) <= no_width2 * norm2(ab) * norm2(ac))
    return nearest_on_sides(p, {a, b, c});
  const double d1 = dot(ab, ap), d2 = dot(ac, ap);
  if (d1 <= 0 && d2 <= 0) return a;
  const Vec3 bp = p - b;
  const double d3 = dot(ab, bp), d4 = dot(ac, bp);
  if (d3 >= 0 && d4 <= d3) return b;
  const double vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return a + ab * share(d1, d1 - d3);
  const Vec3 cp = p - c;
  const double d5 = dot(ab, cp), d6 = dot(ac, cp);
  if (d6 >= 0 && d5 <= d6) return c;
  const double vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return a + ac * share(d2, d2 - d6);
  const double va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0)
    return b + (c - b) * share(d4 - d3, (d4 - d3) + (d5 - d6));
  const double denominator = va + vb + vc;
  if (!(denominator > 0)) return a;
  return a + ab * (vb / denominator) + ac * (vc / denominator);
}

NearestTree::NearestTree(const Surface& surface) {
  if (surface.size() == 0) return;
  std::vector<Place> middle(surface.size());
  for (std::size_t t = 0; t < surface.size(); ++t) {
    const Vec3 c = surface.centroid(t);
    middle[t] = {static_cast<float>(c.x), static_cast<float>(c.y), static_cast<float>(c.z)};
  }
  number_ = spatial_order(middle);
  triangles_.resize(surface.size());
  groups_.resize((surface.size() + width - 1) / width);
  double largest = 0;
  for (std::size_t i = 0; i < groups_.size() * width; ++i) {
    // the last group is filled up with the last triangle
    const std::size_t from = std::min(i, number_.size() - 1);
    const auto t = static_cast<std::size_t>(number_[from]);
    const Vec3 a = surface.corner(t, 0), ab = surface.corner(t, 1) - a,
               ac = surface.corner(t, 2) - a;
    triangles_[from] = {a, surface.corner(t, 1), surface.corner(t, 2)};
    Group& g = groups_[i / width];
    for (int k = 0; k < 3; ++k) {
      g.corner[k][i % width] = static_cast<float>(a[k]);
      g.ab[k][i % width] = static_cast<float>(ab[k]);
      g.ac[k][i % width] = static_cast<float>(ac[k]);
      largest = std::max(largest, std::abs(a[k]));
    }
  }
  rounding_ = 1e-6 * largest;
  std::size_t group = width;  // triangles below one child of the level
  std::int64_t children = 0;
  do {
    children = static_cast<std::int64_t>((triangles_.size() + group - 1) / group);
    level_start_.push_back(static_cast<std::int64_t>(nodes_.size()));
    level_size_.push_back(children);
    const auto nodes = static_cast<std::size_t>((children + width - 1) / width);
    nodes_.resize(nodes_.size() + nodes);
    const std::size_t first = nodes_.size() - nodes;
    parallel_for(
        nodes, [&](std::size_t i) { nodes_[first + i] = box_of(i * width * group, group); }, 16);
    group *= width;
  } while (children > width);
}

NearestTree::Node NearestTree::box_of(std::size_t first, std::size_t group) const {
  Node node{};
  for (int i = 0; i < 3; ++i) node.middle[i] += nowhere;
  node.normal[2] += 1, node.along[0] += 1;
  for (std::size_t k = 0; k < width; ++k) {
    const std::size_t from = first + k * group, to = std::min(from + group, triangles_.size());
    if (from >= triangles_.size()) break;
    Vec3 area;
    Box around;
    for (std::size_t i = from; i < to; ++i) {
      const auto& t = triangles_[i];
      area += cross(t[1] - t[0], t[2] - t[0]);
      for (const Vec3& p : t) around.include(p);
    }
    const Vec3 n = norm(area) > 0 ? unit(area) : Vec3{0, 0, 1};
    const Vec3 size = around.size();
    // The second axis follows the group's longest side.
    const Vec3 longest = size.x >= size.y && size.x >= size.z ? Vec3{1, 0, 0}
                         : size.y >= size.z                   ? Vec3{0, 1, 0}
                                                              : Vec3{0, 0, 1};
    Vec3 along = longest - n * dot(longest, n);
    if (norm(along) < 0.1) along = cross(n, std::abs(n.x) < 0.7 ? Vec3{1, 0, 0} : Vec3{0, 1, 0});
    along = unit(along);
    const Vec3 axes[3] = {n, along, cross(n, along)};
    Box own;
    for (std::size_t i = from; i < to; ++i)
      for (const Vec3& p : triangles_[i])
        own.include(Vec3{dot(axes[0], p), dot(axes[1], p), dot(axes[2], p)});
    const Vec3 c = own.centre(), half = own.size() * 0.5;
    const Vec3 centre = axes[0] * c.x + axes[1] * c.y + axes[2] * c.z;
    // for the rounding to single precision
    const double slack = 1e-6 * (norm(centre) + norm(half));
    for (int i = 0; i < 3; ++i) {
      node.middle[i][k] = static_cast<float>(centre[i]);
      node.normal[i][k] = static_cast<float>(n[i]);
      node.along[i][k] = static_cast<float>(along[i]);
      node.half[i][k] = static_cast<float>(half[i] + slack);
    }
  }
  return node;
}

/// One search: what is left of the way down the tree, and the triangles that come into question.
class NearestTree::Search {
 public:
  Search(const NearestTree& tree, const Vec3& p, double reach)
      : tree_(tree),
        p_(p),
        px_(static_cast<float>(p.x)),
        py_(static_cast<float>(p.y)),
        pz_(static_cast<float>(p.z)),
        tiny_(static_cast<float>(tree.rounding_)),
        best2_(reach * reach),
        bound2_(with_slack(static_cast<float>(std::min(best2_, farthest2)))) {}

  Found nearest() {
    descend(-1);
    settle();
    found_.distance = std::sqrt(best2_);
    return found_;
  }

  bool any() {
    // single precision's word, where its rounding cannot matter
    const auto sure2 = static_cast<float>(std::min(best2_, farthest2)) * (1 - 1e-6f);
    descend(sure2);
    if (least_ <= sure2) return true;
    settle();
    return found_.triangle >= 0;
  }

 private:
  struct Entry {
    float d2;
    int level;
    std::int64_t node;
  };
  struct Candidate {
    float d2;
    std::size_t triangle;
  };

  /// Looks at all that may hold the nearest point, or until something is surely as near as the
  /// square root of `enough2`.
  void descend(float enough2) {
    stack_[top_++] = {0.0f, static_cast<int>(tree_.level_start_.size()) - 1, 0};
    while (top_ > 0 && least_ > enough2) {
      const Entry e = stack_[--top_];
      if (e.d2 > bound2_) continue;
      if (e.level < 0)
        try_group(e.node);
      else
        open(e);
    }
  }

  /// Something is as near as that, by single precision.
  void nearer(float d2) {
    least_ = std::min(least_, with_slack(d2));
    bound2_ = std::min(bound2_, least_);
  }

  /// What single precision takes for `d2` may be nearer than anything up to this.
  float with_slack(float d2) const {
    const float d = std::sqrt(d2) * (1 + 1e-4f) + tiny_;
    return d * d;
  }

  /// Single precision says which triangles come into question; which one it is, double precision.
  void settle() {
    for (std::size_t c = 0; c < in_question_; ++c) {
      const std::size_t i = candidates_[c].triangle;
      if (candidates_[c].d2 > bound2_) continue;
      const auto& t = tree_.triangles_[i];
      const std::int32_t number = tree_.number_[i];
      const Vec3 q = nearest_on_triangle(p_, t[0], t[1], t[2]);
      const double exact2 = norm2(q - p_);
      const bool later = found_.triangle >= 0 && number > found_.triangle;
      if (exact2 > best2_ || (exact2 == best2_ && later)) continue;
      best2_ = exact2;
      found_.point = q;
      found_.triangle = number;
    }
    in_question_ = 0;
  }

  void try_group(std::int64_t number) {
    const Group& g = tree_.groups_[at(number)];
    const Float8 corner[3] = {g.corner[0] - px_, g.corner[1] - py_, g.corner[2] - pz_};
    const Float8 d2 = to_triangle2(corner, g.ab, g.ac);
    nearer(least(d2));
    for (unsigned lanes = lanes_of(d2 <= bound2_); lanes; lanes &= lanes - 1) {
      const int k = std::countr_zero(lanes);
      const std::size_t i = at(number) * width + at(k);
      if (i >= tree_.number_.size()) break;
      if (in_question_ == candidates_.size()) settle();
      candidates_[in_question_++] = {d2[k], i};
    }
  }

  /// Puts the children that may hold the nearest point onto the stack, the nearest on top.
  void open(const Entry& e) {
    const Node& n = tree_.nodes_[at(tree_.level_start_[at(e.level)] + e.node)];
    const Float8 x = px_ - n.middle[0], y = py_ - n.middle[1], z = pz_ - n.middle[2];
    const Float8 bx = n.normal[1] * n.along[2] - n.normal[2] * n.along[1],
                 by = n.normal[2] * n.along[0] - n.normal[0] * n.along[2],
                 bz = n.normal[0] * n.along[1] - n.normal[1] * n.along[0];
    const Float8 u = absolute(x * n.normal[0] + y * n.normal[1] + z * n.normal[2]);
    const Float8 v = absolute(x * n.along[0] + y * n.along[1] + z * n.along[2]);
    const Float8 w = absolute(x * bx + y * by + z * bz);
    const Float8 du = positive(u - n.half[0]), dv = positive(v - n.half[1]),
                 dw = positive(w - n.half[2]);
    const Float8 d2 = du * du + dv * dv + dw * dw;
    // No box is empty: the nearest point is no farther than the farthest corner of any.
    if (in_question_ == 0) {
      const Float8 fu = u + n.half[0], fv = v + n.half[1], fw = w + n.half[2];
      nearer(least(fu * fu + fv * fv + fw * fw));
    }
    const int base = top_;
    for (unsigned lanes = lanes_of(d2 <= bound2_); lanes; lanes &= lanes - 1) {
      const int k = std::countr_zero(lanes);
      int place = top_++;
      for (; place > base && stack_[place - 1].d2 < d2[k]; --place)
        stack_[place] = stack_[place - 1];
      stack_[place] = {d2[k], e.level - 1, e.node * width + k};
    }
    if (top_ > base) fetch(stack_[top_ - 1]);
  }

  /// The memory's latency is the limit: what comes next is asked for as a whole.
  void fetch(const Entry& e) const {
    const char* first = e.level < 0
                            ? reinterpret_cast<const char*>(&tree_.groups_[at(e.node)])
                            : reinterpret_cast<const char*>(
                                  &tree_.nodes_[at(tree_.level_start_[at(e.level)] + e.node)]);
    const std::size_t bytes = e.level < 0 ? sizeof(Group) : sizeof(Node);
    for (std::size_t offset = 0; offset < bytes; offset += 64) __builtin_prefetch(first + offset);
  }

  const NearestTree& tree_;
  const Vec3& p_;
  const float px_, py_, pz_, tiny_;
  Found found_;
  double best2_;
  float bound2_;         ///< beyond it nothing is looked at
  float least_ = 1e38f;  ///< something is surely as near (its square)
  int top_ = 0;
  std::size_t in_question_ = 0;
  Entry stack_[128];
  std::array<Candidate, 64> candidates_;
};

NearestTree::Found NearestTree::nearest(const Vec3& p, double reach) const {
  if (groups_.empty()) return {};
  return Search(*this, p, reach).nearest();
}

bool NearestTree::within(const Vec3& p, double reach) const {
  return !groups_.empty() && Search(*this, p, reach).any();
}

}  // namespace dunefield
