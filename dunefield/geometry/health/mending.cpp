#include <dunefield/geometry/health/mending.hpp>

#include <numeric>
#include <set>
#include <unordered_map>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/shells.hpp>
#include <dunefield/geometry/shapes/polygon.hpp>

namespace dunefield {
namespace {

std::string place(const Vec3& p) {
  return fmt::format("({:.3f}, {:.3f}, {:.3f}) m", p.x, p.y, p.z);
}

/// Keeps the triangles for which `keep` holds; points nobody uses are dropped.
template <class Keep>
std::size_t keep_triangles(Surface& s, const Keep& keep) {
  std::size_t kept = 0;
  for (std::size_t t = 0; t < s.size(); ++t)
    if (keep(t)) s.triangles[kept] = s.triangles[t], s.part_of[kept++] = s.part_of[t];
  const std::size_t dropped = s.size() - kept;
  s.triangles.resize(kept), s.part_of.resize(kept);
  drop_unused_points(s);
  return dropped;
}

void drop_stray_pieces(Surface& s, double limit, Findings& f) {
  const Pieces pieces = connected_pieces(s);
  std::vector<Box> box(at(pieces.count));
  for (std::size_t t = 0; t < s.size(); ++t)
    for (int k = 0; k < 3; ++k) box[at(pieces.of_triangle[t])].include(s.corner(t, k));
  std::size_t count = 0;
  Vec3 first;
  for (std::size_t p = box.size(); p-- > 0;)
    if (norm(box[p].size()) < limit) ++count, first = box[p].centre();
  if (count == box.size())
    throw InputError(fmt::format("every piece is smaller than {:.4g} m", limit), "drop stray bits",
                     "choose a smaller size");
  const std::vector<int> of = pieces.of_triangle;
  const std::size_t facets =
      keep_triangles(s, [&](std::size_t t) { return norm(box[at(of[t])].size()) >= limit; });
  if (count)
    f.note(fmt::format("{} stray bits under {:.4g} mm dropped ({} facets), the first at {}", count,
                       1000 * limit, facets, place(first)));
  else
    f.note(fmt::format("no piece is smaller than {:.4g} mm", 1000 * limit));
}

void orient_outward(Surface& s, Findings& f) {
  const Surface before = s;
  const RayScene rays(before);
  const Shells shells = find_shells(before, rays);
  Vec3 first;
  for (std::size_t t = s.size(); t-- > 0;)
    if (shells.turned[t]) std::swap(s.triangles[t][1], s.triangles[t][2]), first = s.centroid(t);
  f.note(shells.turned_count ? fmt::format("{} facets turned outward, the first at {}",
                                           shells.turned_count, place(first))
                             : "all facets face outward already");
}

void close_small_loops(Surface& s, double limit, Findings& f) {
  std::size_t closed = 0, left = 0;
  for (const EdgeLoop& loop : open_loops(s)) {
    if (!loop.closed || loop.size > limit) {
      ++left;
      continue;
    }
    close_loop(s, loop, "");
    if (++closed <= 10)
      f.note(fmt::format("loop of {} edges, {:.1f} mm across, closed at {}", loop.points.size(),
                         1000 * loop.size, place(loop.centre)));
  }
  f.note(fmt::format("{} loops closed, {} left open", closed, left));
}

}  // namespace

std::size_t weld_within(Surface& s, double distance) {
  // Points in the same or neighbouring cells of a grid; each joins the first one near enough.
  struct Hash {
    std::size_t operator()(const std::array<std::int64_t, 3>& c) const {
      return static_cast<std::size_t>(c[0] * 73856093 ^ c[1] * 19349663 ^ c[2] * 83492791);
    }
  };
  std::unordered_map<std::array<std::int64_t, 3>, std::vector<int>, Hash> grid;
  std::vector<int> number(s.points.size());
  std::size_t joined = 0;
  for (std::size_t i = 0; i < s.points.size(); ++i) {
    const Vec3& p = s.points[i];
    std::array<std::int64_t, 3> cell;
    for (int k = 0; k < 3; ++k)
      cell[at(k)] = static_cast<std::int64_t>(std::floor(p[k] / distance));
    number[i] = static_cast<int>(i);
    for (int n = 0; n < 27 && number[i] == static_cast<int>(i); ++n) {
      const auto it =
          grid.find({cell[0] + n % 3 - 1, cell[1] + n / 3 % 3 - 1, cell[2] + n / 9 - 1});
      if (it == grid.end()) continue;
      for (const int j : it->second)
        if (norm(s.points[at(j)] - p) <= distance) {
          number[i] = j, ++joined;
          break;
        }
    }
    if (number[i] == static_cast<int>(i)) grid[cell].push_back(static_cast<int>(i));
  }
  for (auto& t : s.triangles)
    for (int& c : t) c = number[at(c)];
  keep_triangles(s, [&](std::size_t t) {
    return s.triangles[t][0] != s.triangles[t][1] && s.triangles[t][1] != s.triangles[t][2] &&
           s.triangles[t][2] != s.triangles[t][0];
  });
  return joined;
}

void close_loop(Surface& s, const EdgeLoop& loop, const std::string& part) {
  int number = part.empty() ? -1 : s.find_part(part);
  if (number < 0 && !part.empty())
    number = static_cast<int>(s.part_names.size()), s.part_names.push_back(part);
  if (number < 0)  // the part of a facet at the rim
    for (std::size_t t = 0; t < s.size() && number < 0; ++t)
      for (const int c : s.triangles[t])
        if (c == loop.points[0]) number = s.part_of[t];
  const std::vector<int> ring(loop.points.rbegin(), loop.points.rend());
  const std::set<int> rim(ring.begin(), ring.end());
  std::set<std::pair<int, int>> edges;  // between points of the rim
  for (const auto& t : s.triangles)
    for (std::size_t k = 0; k < 3; ++k)
      if (rim.contains(t[k]) && rim.contains(t[(k + 1) % 3]))
        edges.insert(std::minmax(t[k], t[(k + 1) % 3]));
  const auto taken = [&](int a, int b) { return edges.contains(std::minmax(a, b)); };
  for (const auto& t : triangulate(s.points, ring, taken))
    s.triangles.push_back(t), s.part_of.push_back(std::max(number, 0));
}

void thicken_part(Surface& s, const std::string& part, double thickness) {
  const int number = s.find_part(part);
  if (number < 0)
    throw InputError("there is no part named '" + part + "'", "thicken",
                     "name one of the vehicle's parts");
  Surface own = select_parts(s, [&] {
    std::vector<bool> keep(s.part_names.size(), false);
    keep[at(number)] = true;
    return keep;
  }());
  drop_unused_points(own);
  std::vector<Vec3> normal(own.points.size());
  for (std::size_t t = 0; t < own.size(); ++t)
    for (const int c : own.triangles[t]) normal[at(c)] += own.area_vector(t);
  const std::vector<EdgeLoop> loops = open_loops(own);
  const int n = static_cast<int>(own.points.size());
  Surface shell;
  shell.part_names = {part};
  for (const int side : {1, -1})
    for (std::size_t i = 0; i < own.points.size(); ++i)
      shell.points.push_back(own.points[i] + unit(normal[i]) * (0.5 * side * thickness));
  for (const auto& t : own.triangles)
    shell.triangles.push_back(t), shell.triangles.push_back({t[0] + n, t[2] + n, t[1] + n});
  for (const EdgeLoop& loop : loops)
    for (std::size_t i = 0; i + (loop.closed ? 0 : 1) < loop.points.size(); ++i) {
      const int a = loop.points[i], b = loop.points[(i + 1) % loop.points.size()];
      shell.triangles.push_back({b, a, a + n}), shell.triangles.push_back({b, a + n, b + n});
    }
  shell.part_of.assign(shell.size(), 0);
  keep_triangles(s, [&](std::size_t t) { return s.part_of[t] != number; });
  append(s, shell);
}

Findings mend(Surface& s, const MendOptions& o) {
  Findings f;
  if (o.weld > 0)
    f.note(fmt::format("{} points welded within {:.4g} mm", weld_within(s, o.weld), 1000 * o.weld));
  if (o.drop_doubled) {
    const RayScene rays(s);
    const Shells shells = find_shells(s, rays);
    f.note(fmt::format("{} doubled facets dropped",
                       keep_triangles(s, [&](std::size_t t) { return !shells.doubled[t]; })));
  }
  if (o.drop_stray > 0) drop_stray_pieces(s, o.drop_stray, f);
  if (o.orient) orient_outward(s, f);
  if (o.close_loops > 0) close_small_loops(s, o.close_loops, f);
  for (const auto& [part, thickness] : o.thicken) {
    thicken_part(s, part, thickness);
    f.note(fmt::format("part '{}' is now {:.4g} mm thick", part, 1000 * thickness));
  }
  return f;
}

}  // namespace dunefield
