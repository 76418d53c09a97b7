#include <dunefield/mesh/dual/sharp_lines.hpp>

#include <array>
#include <map>
#include <numbers>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/edges.hpp>
#include <dunefield/geometry/folds.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

Surface exposed_sharp_edges(const Surface& vehicle, const SolidField& solid,
                            const std::vector<Fold>& folds) {
  const double off = 1e-5 * norm(bounds(vehicle).size());
  std::vector<char> exposed(folds.size());
  parallel_for(
      folds.size(),
      [&](std::size_t i) {
        if (folds[i].angle > folded_angle) return;
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

/// Edges of one facet, and of two back to back, with air somewhere around them.
Surface exposed_rims(const Surface& vehicle, const SolidField& solid,
                     const std::vector<Fold>& folds) {
  struct Rim {
    int low, high, triangle;
  };
  std::vector<Rim> rims;
  EdgeTable(vehicle).for_each([&](int low, int high, std::span<const EdgeTable::Use> uses) {
    if (uses.size() == 1) rims.push_back({low, high, uses[0].triangle()});
  });
  for (const Fold& f : folds)
    if (f.angle > folded_angle) rims.push_back({f.low, f.high, -1});
  const double off = 1e-5 * norm(bounds(vehicle).size());
  std::vector<char> exposed(rims.size());
  parallel_for(
      rims.size(),
      [&](std::size_t i) {
        const Vec3 &a = vehicle.points[at(rims[i].low)], &b = vehicle.points[at(rims[i].high)],
                   middle = 0.5 * (a + b);
        Vec3 across{0, 0, 1};
        if (rims[i].triangle >= 0) across = unit(vehicle.area_vector(at(rims[i].triangle)));
        const Vec3 aside = unit(cross(across, b - a));
        for (const Vec3& way : {across, -across, aside, -aside})
          exposed[i] = exposed[i] || !solid.inside(middle + way * off, 0);
      },
      64);
  Surface lines;
  for (std::size_t i = 0; i < rims.size(); ++i)
    if (exposed[i])
      add_line(lines, vehicle.points[at(rims[i].low)], vehicle.points[at(rims[i].high)]);
  return lines;
}

/// Points where lines of a rim meet at an angle, as lines without length.
Surface corners_of(const Surface& lines) {
  constexpr double straight = 0.87;  // cosine
  std::map<std::array<double, 3>, std::vector<Vec3>> ways;
  for (std::size_t t = 0; t < lines.size(); ++t)
    for (const int end : {0, 1}) {
      const Vec3 p = lines.corner(t, end);
      ways[{p.x, p.y, p.z}].push_back(unit(lines.corner(t, 1 - end) - p));
    }
  Surface corners;
  for (const auto& [p, from] : ways)
    if (from.size() == 2 && dot(from[0], from[1]) > -straight)
      add_line(corners, {p[0], p[1], p[2]}, {p[0], p[1], p[2]});
  return corners;
}

std::optional<Vec3> nearest_on(const NearestTree& tree, const Vec3& p, double reach) {
  const NearestTree::Found found = tree.nearest(p, reach);
  if (found.triangle < 0) return {};
  return found.point;
}

}  // namespace

void add_line(Surface& lines, const Vec3& a, const Vec3& b) {
  const int n = static_cast<int>(lines.points.size());
  lines.points.push_back(a), lines.points.push_back(b);
  lines.triangles.push_back({n, n + 1, n + 1}), lines.part_of.push_back(0);
}

SharpLines::SharpLines(const Surface& vehicle, const SolidField& solid)
    : SharpLines(vehicle, solid, folds_of(vehicle, sharp_angle, std::numbers::pi + 1e-9)) {}

SharpLines::SharpLines(const Surface& vehicle, const SolidField& solid,
                       const std::vector<Fold>& folds)
    : rim_lines_(exposed_rims(vehicle, solid, folds)),
      sharp_(exposed_sharp_edges(vehicle, solid, folds)),
      rims_(rim_lines_),
      corners_(corners_of(rim_lines_)) {}

std::optional<Vec3> SharpLines::nearest(const Vec3& p, double reach) const {
  return nearest_on(sharp_, p, reach);
}

std::optional<Vec3> SharpLines::rim_corner(const Vec3& p, const Box& within) const {
  const auto corner = nearest_on(corners_, p, norm(within.size()));
  return corner && within.contains(*corner) ? corner : std::nullopt;
}

std::optional<Vec3> SharpLines::nearest_rim(const Vec3& p, double reach) const {
  const auto sharp = nearest_on(sharp_, p, reach);
  const auto rim = nearest_on(rims_, p, sharp ? norm(*sharp - p) : reach);
  return rim ? rim : sharp;
}

}  // namespace dunefield
