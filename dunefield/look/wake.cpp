#include <dunefield/look/wake.hpp>

#include <dunefield/look/plane_cut.hpp>

namespace dunefield {
namespace {

/// Adds the part of a triangle where its values are below a level.
void add_below(const std::array<Vec3, 3>& p, const std::array<double, 3>& v, double below,
               WakeSection& sum) {
  std::vector<Vec3> part;
  for (std::size_t k = 0; k < 3; ++k) {
    const std::size_t next = (k + 1) % 3;
    if (v[k] <= below) part.push_back(p[k]);
    if ((v[k] <= below) != (v[next] <= below))
      part.push_back(p[k] + (p[next] - p[k]) * ((below - v[k]) / (v[next] - v[k])));
  }
  for (std::size_t k = 1; k + 1 < part.size(); ++k) {
    const double area = 0.5 * norm(cross(part[k] - part[0], part[k + 1] - part[0]));
    sum.area += area;
    sum.centre += (part[0] + part[k] + part[k + 1]) * (area / 3);
  }
}

}  // namespace

WakeSection wake_section(const FlowView& view, const Plane& plane, double below) {
  const Sheet s = PlaneCut(view, plane).sheet("total Cp");
  WakeSection sum;
  for (const auto& t : s.triangles)
    add_below({s.points[at(t[0])], s.points[at(t[1])], s.points[at(t[2])]},
              {s.values[at(t[0])], s.values[at(t[1])], s.values[at(t[2])]}, below, sum);
  if (sum.area > 0) sum.centre = sum.centre / sum.area;
  return sum;
}

}  // namespace dunefield
