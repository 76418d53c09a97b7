#include <dunefield/look/clipped_sheet.hpp>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

struct Corner {
  Vec3 place, normal;
  double value = 0;
};
Corner between(const Corner& a, const Corner& b, double s) {
  return {a.place * (1 - s) + b.place * s, a.normal * (1 - s) + b.normal * s,
          a.value * (1 - s) + b.value * s};
}

std::vector<Corner> cut(const std::vector<Corner>& p, int axis, double sign, double limit) {
  std::vector<Corner> out;
  for (std::size_t i = 0; i < p.size(); ++i) {
    const Corner &a = p[i], &b = p[(i + 1) % p.size()];
    const double ha = limit - sign * a.place[axis], hb = limit - sign * b.place[axis];
    if (ha >= 0) out.push_back(a);
    if ((ha >= 0) != (hb >= 0)) out.push_back(between(a, b, ha / (ha - hb)));
  }
  return out;
}

}  // namespace

Sheet clipped_to(const Sheet& s, const Box& box) {
  Sheet out = s;
  out.triangles.clear(), out.flow.clear();
  std::vector<char> in(s.points.size());
  for (std::size_t i = 0; i < in.size(); ++i) in[i] = box.contains(s.points[i]);
  for (const auto& t : s.triangles) {
    if (in[at(t[0])] && in[at(t[1])] && in[at(t[2])]) {
      out.triangles.push_back(t);
      continue;
    }
    std::vector<Corner> p;
    for (const int i : t)
      p.push_back({s.points[at(i)], s.normals.empty() ? Vec3{} : s.normals[at(i)],
                   s.values.empty() ? 0 : s.values[at(s.facets ? t[0] : i)]});
    for (int axis = 0; axis < 3 && p.size() >= 3; ++axis) {
      p = cut(p, axis, 1, box.hi[axis]);
      p = cut(p, axis, -1, -box.lo[axis]);
    }
    if (p.size() < 3) continue;
    const int first = static_cast<int>(out.points.size());
    for (const Corner& c : p) {
      out.points.push_back(c.place);
      if (!s.normals.empty()) out.normals.push_back(c.normal);
      if (!s.values.empty()) out.values.push_back(c.value);
    }
    for (int k = 1; k + 1 < static_cast<int>(p.size()); ++k)
      out.triangles.push_back({first, first + k, first + k + 1});
  }
  return out;
}

}  // namespace dunefield
