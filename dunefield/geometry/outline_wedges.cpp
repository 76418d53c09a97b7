// Wedges of air between two sides of an outline that meet at an acute angle: cells cannot follow
// them to their point.
#include <cmath>

#include <fmt/format.h>

#include <dunefield/geometry/outline.hpp>

namespace dunefield {
namespace {

/// A place so far along a loop from a point of it, and the number of the side that it lies on.
struct PlaceAlong {
  Vec3 place;
  std::size_t side;
};
PlaceAlong along(const OutlineLoop& loop, std::size_t from, double way, bool ahead) {
  const std::size_t n = loop.points.size();
  std::size_t i = from;
  for (std::size_t step = 0; step < n; ++step) {
    const std::size_t j = (i + (ahead ? 1 : n - 1)) % n;
    const Vec3 side = loop.points[j] - loop.points[i];
    if (const double length = norm(side); way > length) {
      way -= length, i = j;
      continue;
    }
    return {loop.points[i] + unit(side) * way, ahead ? i : j};
  }
  return {loop.points[i], i};
}

/// Half of the way round a loop at most. 0: the sides never come so far apart.
double way_to_width(const OutlineLoop& loop, std::size_t corner, double gap) {
  double round = 0;
  for (std::size_t i = 0; i < loop.points.size(); ++i)
    round += norm(loop.point(i + 1) - loop.points[i]);
  for (double way = 0.5 * gap; way < 0.25 * round; way += 0.5 * gap)
    if (norm(along(loop, corner, way, true).place - along(loop, corner, way, false).place) >= gap)
      return way;
  return 0;
}

bool fill_one_wedge(OutlineLoop& loop, double gap, Findings& findings) {
  constexpr double acute = -2.2;  // rad that the outline turns back by: 54 degrees of air are left
  const std::size_t n = loop.points.size();
  for (std::size_t i = 0; i < n; ++i) {
    const Vec3 in = loop.points[i] - loop.points[(i + n - 1) % n],
               out = loop.point(i + 1) - loop.points[i];
    if (std::atan2(turn({}, in, out), dot(in, out)) > acute) continue;
    const double way = way_to_width(loop, i, gap);
    if (way == 0) continue;
    const PlaceAlong last = along(loop, i, way, false), next = along(loop, i, way, true);
    findings.note(
        fmt::format("a wedge of air narrower than {:.2g} mm is filled at x = {:.3f}, z = {:.3f} m",
                    1000 * gap, loop.points[i].x, loop.points[i].z));
    OutlineLoop kept;
    kept.points = {last.place, next.place};
    kept.part_of = {loop.part_of[i], loop.part_of[next.side]};
    for (std::size_t k = next.side + 1; k % n != (last.side + 1) % n; ++k)
      kept.points.push_back(loop.points[k % n]), kept.part_of.push_back(loop.part_of[k % n]);
    if (kept.points.size() < 4) return false;
    loop = std::move(kept);
    return true;
  }
  return false;
}

}  // namespace

void fill_wedges(Outline& outline, double gap, Findings& findings) {
  constexpr int most = 100;  // per outline: each one can leave another
  for (OutlineLoop& loop : outline.loops)
    for (int k = 0; k < most && fill_one_wedge(loop, gap, findings); ++k) {
    }
}

}  // namespace dunefield
