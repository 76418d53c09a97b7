// Where smoke begins.
#include <cmath>
#include <numbers>

#include <dunefield/base/error.hpp>
#include <dunefield/look/picture.hpp>
#include <dunefield/look/vehicle_sheets.hpp>

namespace dunefield {

std::vector<Vec3> line_of_seeds(const Vec3& from, const Vec3& to, int count) {
  std::vector<Vec3> seeds;
  for (int i = 0; i < count; ++i)
    seeds.push_back(from + (to - from) * (count > 1 ? static_cast<double>(i) / (count - 1) : 0.5));
  return seeds;
}

std::vector<Vec3> nose_rake(const Record& r, int count) {
  const Box& v = r.vehicle;
  const Vec3 size = v.size();
  const double ahead = v.lo.x - 0.35 * size.x, wide = 0.52 * size.y, low = v.lo.z + 0.04 * size.z,
               high = v.hi.z + 0.10 * size.z;
  const double shape = 2 * wide / std::max(1e-9, high - low);
  const int rows = std::max(2, static_cast<int>(std::sqrt(count / std::max(shape, 0.1)) + 0.5)),
            columns = std::max(2, count / rows);
  std::vector<Vec3> seeds;
  for (int i = 0; i < rows; ++i)
    for (int k = 0; k < columns; ++k)
      seeds.push_back({ahead, v.centre().y - wide + 2 * wide * (k + 0.5) / columns,
                       low + (high - low) * i / (rows - 1.0)});
  return seeds;
}

std::vector<Vec3> circle_of_seeds(const Vec3& centre, const Vec3& normal, double radius,
                                  int count) {
  const PlaneAxes axes(unit(normal));
  std::vector<Vec3> seeds;
  for (int i = 0; i < count; ++i) {
    const double angle = 2 * std::numbers::pi * i / count;
    seeds.push_back(centre + (axes.across * std::cos(angle) + axes.up * std::sin(angle)) * radius);
  }
  return seeds;
}

std::vector<Vec3> seeds_round_vortex(const FlowView& view, int count) {
  const std::vector<VortexCore> cores = vortex_cores(view);
  if (cores.empty())
    throw InputError("no vortex is strong enough for smoke through it", view.record().run.variant,
                     "name the seeds' places");
  const VortexCore& core = cores.front();
  const std::size_t middle = core.points.size() / 2;
  const Vec3 way = core.points[std::min(middle + 1, core.points.size() - 1)] -
                   core.points[middle > 0 ? middle - 1 : 0];
  return circle_of_seeds(core.points[middle], way, 0.6 * core.radius, count);
}

std::vector<Vec3> seeds_at_stagnation(const FlowView& view, int count) {
  const auto points = stagnation_points(view, 0.5);
  const double length = view.record().vehicle.size().x;
  std::vector<Vec3> seeds;
  for (const StagnationPoint& p : points)
    for (const Vec3& s :
         circle_of_seeds(p.place - Vec3{0.004 * length, 0, 0}, {1, 0, 0}, 0.004 * length,
                         std::max(1, count / static_cast<int>(points.size()))))
      seeds.push_back(s);
  return seeds;
}

std::vector<Vec3> seeds_on_part(const FlowView& view, const std::string& part, int count) {
  std::string known;
  for (const Sheet& s : vehicle_sheets(view, "")) {
    known += (known.empty() ? "" : ", ") + s.name;
    if (s.name != part) continue;
    // Where evenly spread shares of the area end.
    std::vector<double> area = {0};
    for (const auto& t : s.triangles)
      area.push_back(area.back() + norm(cross(s.points[at(t[1])] - s.points[at(t[0])],
                                              s.points[at(t[2])] - s.points[at(t[0])])));
    const double above = 2e-3 * view.record().vehicle.size().x;
    std::vector<Vec3> seeds;
    for (int i = 0; i < count; ++i) {
      const double wanted = area.back() * (i + 0.5) / count;
      const auto k = static_cast<std::size_t>(std::lower_bound(area.begin(), area.end(), wanted) -
                                              area.begin() - 1);
      const auto& t = s.triangles[std::min(k, s.triangles.size() - 1)];
      seeds.push_back((s.points[at(t[0])] + s.points[at(t[1])] + s.points[at(t[2])]) / 3.0 +
                      s.normals[at(t[0])] * above);
    }
    return seeds;
  }
  throw InputError("the vehicle has no part '" + part + "'", view.record().run.variant,
                   "it has " + known);
}

}  // namespace dunefield
