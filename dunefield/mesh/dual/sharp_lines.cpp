#include <dunefield/mesh/dual/sharp_lines.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/folds.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

Surface exposed_lines(const Surface& vehicle, const SolidField& solid) {
  const std::vector<Fold> folds = folds_of(vehicle, sharp_angle, folded_angle);
  const double off = 1e-5 * norm(bounds(vehicle).size());
  std::vector<char> exposed(folds.size());
  parallel_for(
      folds.size(),
      [&](std::size_t i) {
        const Vec3 middle =
            0.5 * (vehicle.points[at(folds[i].low)] + vehicle.points[at(folds[i].high)]);
        const Vec3 out = unit(folds[i].normals[0] + folds[i].normals[1]) * off;
        exposed[i] = solid.inside(middle + out, 0) != solid.inside(middle - out, 0);
      },
      64);
  Surface lines;
  for (std::size_t i = 0; i < folds.size(); ++i)
    if (exposed[i])
      add_line(lines, vehicle.points[at(folds[i].low)], vehicle.points[at(folds[i].high)]);
  return lines;
}

}  // namespace

void add_line(Surface& lines, const Vec3& a, const Vec3& b) {
  const int n = static_cast<int>(lines.points.size());
  lines.points.push_back(a), lines.points.push_back(b);
  lines.triangles.push_back({n, n + 1, n + 1}), lines.part_of.push_back(0);
}

SharpLines::SharpLines(const Surface& vehicle, const SolidField& solid)
    : tree_(exposed_lines(vehicle, solid)) {}

std::optional<Vec3> SharpLines::nearest(const Vec3& p, double reach) const {
  const NearestTree::Found found = tree_.nearest(p, reach);
  if (found.triangle < 0) return {};
  return found.point;
}

}  // namespace dunefield
