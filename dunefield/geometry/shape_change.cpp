#include <dunefield/geometry/shape_change.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr double usual_rim = 0.25;  // of the box's longest side

double smooth_step(double t) { return t * t * (3 - 2 * t); }

/// One in the box, falling to zero over the rim.
double share_at(const Box& box, double rim, const Vec3& x) {
  double share = 1;
  for (int i = 0; i < 3; ++i) {
    const double outside = std::max({box.lo[i] - x[i], x[i] - box.hi[i], 0.0});
    share *= outside < rim ? 1 - smooth_step(outside / rim) : 0;
  }
  return share;
}

Vec3 rotated(const Vec3& x, const Vec3& centre, const Vec3& axis, double angle) {
  // Rodrigues 1840
  const Vec3 r = x - centre;
  return centre + r * std::cos(angle) + cross(axis, r) * std::sin(angle) +
         axis * (dot(axis, r) * (1 - std::cos(angle)));
}

Vec3 unit_vector(int axis) {
  Vec3 e;
  e[axis] = 1;
  return e;
}

/// Bernstein's polynomial i of degree n.
double bernstein(int n, int i, double t) {
  double binomial = 1;
  for (int k = 1; k <= i; ++k) binomial *= double(n - i + k) / k;
  return binomial * std::pow(t, i) * std::pow(1 - t, n - i);
}

Vec3 by_control_points(const ShapeChange& c, const Vec3& x) {
  const Vec3 size = c.box.size();
  double t[3];
  for (int i = 0; i < 3; ++i)
    t[i] = size[i] > 0 ? std::clamp((x[i] - c.box.lo[i]) / size[i], 0.0, 1.0) : 0;
  Vec3 moved;
  for (const ShapeChange::Move& m : c.moves) {
    double weight = 1;
    for (int i = 0; i < 3; ++i) weight *= bernstein(c.counts[at(i)] - 1, m.point[at(i)], t[i]);
    moved += m.by * weight;
  }
  return moved;
}

Vec3 grown(const ShapeChange& c, const Vec3& x) {
  const double length = c.box.size()[c.along],
               way = c.backward ? c.box.hi[c.along] - x[c.along] : x[c.along] - c.box.lo[c.along],
               t = length > 0 ? std::max(way / length, 0.0) : 0, growth = t * t;
  const Vec3 middle = c.box.centre(), line = unit_vector(c.along);
  switch (c.kind) {
    case ShapeChange::Kind::stretch: return line * ((c.backward ? -1 : 1) * c.amount * growth);
    case ShapeChange::Kind::taper: {
      const Vec3 from_line = x - middle - line * dot(x - middle, line);
      return from_line * ((c.amount - 1) * growth);
    }
    case ShapeChange::Kind::twist: return rotated(x, middle, line, c.amount * growth) - x;
    case ShapeChange::Kind::bend: {
      Vec3 root = middle;
      root[c.along] = c.backward ? c.box.hi[c.along] : c.box.lo[c.along];
      return rotated(x, root, c.axis, c.amount * growth) - x;
    }
    case ShapeChange::Kind::control: break;
  }
  return {};
}

/// Points that belong to the part and to others, too, become two.
void part_points(Surface& s, int part) {
  std::vector<char> others(s.points.size(), 0);
  for (std::size_t t = 0; t < s.size(); ++t)
    if (s.part_of[t] != part)
      for (const int p : s.triangles[t]) others[at(p)] = 1;
  std::vector<int> own(s.points.size(), -1);
  for (std::size_t t = 0; t < s.size(); ++t) {
    if (s.part_of[t] != part) continue;
    for (int& p : s.triangles[t]) {
      if (!others[at(p)]) continue;
      if (own[at(p)] < 0) {
        own[at(p)] = static_cast<int>(s.points.size());
        const Vec3 copy = s.points[at(p)];
        s.points.push_back(copy);
      }
      p = own[at(p)];
    }
  }
}

}  // namespace

Vec3 displacement(const ShapeChange& c, const Vec3& x) {
  const Vec3 size = c.box.size();
  const double rim = c.rim > 0 ? c.rim : usual_rim * std::max({size.x, size.y, size.z});
  const double share = share_at(c.box, rim, x);
  if (!(share > 0)) return {};
  return (c.kind == ShapeChange::Kind::control ? by_control_points(c, x) : grown(c, x)) * share;
}

void apply(const ShapeChange& change, Surface& s, int part, const std::string& where) {
  if (part >= 0) part_points(s, part);
  std::vector<char> moves(s.points.size(), 0);
  for (std::size_t t = 0; t < s.size(); ++t)
    if (part < 0 || s.part_of[t] == part)
      for (const int p : s.triangles[t]) moves[at(p)] = 1;
  const Surface before = s;
  bool any = false;
  for (std::size_t i = 0; i < s.points.size(); ++i) {
    if (!moves[i]) continue;
    const Vec3 by = displacement(change, before.points[i]);
    any |= norm2(by) > 0;
    s.points[i] += by;
  }
  if (!any)
    throw InputError("nothing lies where the shape would change", where,
                     "check the box: it is in vehicle axes at full size");
  for (std::size_t t = 0; t < s.size(); ++t) {
    const Vec3 was = before.area_vector(t), is = s.area_vector(t);
    if (dot(was, is) >= 0 || norm(was) == 0) continue;
    const Vec3 x = before.centroid(t);
    throw InputError(fmt::format("the surface folds at ({:.3f}, {:.3f}, {:.3f}) m", x.x, x.y, x.z),
                     where, "change it by less, or over a longer box or rim");
  }
}

}  // namespace dunefield
