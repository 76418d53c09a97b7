#include <dunefield/mesh/gaps.hpp>

#include <algorithm>

#include <dunefield/geometry/ray_scene.hpp>
#include <dunefield/mesh/wall_triangles.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double facing = 0.7;        // cosine between one wall and the way to the other, at both
constexpr double smallest = 4;        // squares of a leaf that a gap must face: less is a corner
constexpr double one_place = 10;      // leaves around the narrowest face that belong to the same gap

std::size_t at(int i) { return static_cast<std::size_t>(i); }

struct Narrow {
  int patch = -1, other = -1;  ///< -1: not narrow
  double width = 0, leaf = 0, area = 0;
  Vec3 place;
};

bool is_wall(const Patch& p) { return p.kind == PatchKind::part || p.kind == PatchKind::road; }

}  // namespace

std::vector<NarrowGap> narrow_gaps(const VolumeMesh& m, const std::vector<double>& leaf, const std::vector<std::string>& standing, double least) {
  const WallTriangles walls = wall_triangles(m, is_wall);
  const RayScene rays(walls.surface);
  std::vector<int> patch_of(at(m.faces()), -1);
  std::vector<int> faces;
  for (std::size_t p = 0; p < m.patches.size(); ++p)
    for (int f = m.patches[p].first; f < m.patches[p].first + m.patches[p].count; ++f) {
      patch_of[at(f)] = static_cast<int>(p);
      if (m.patches[p].kind == PatchKind::part) faces.push_back(f);
    }
  const auto stands = [&](int p) { return std::find(standing.begin(), standing.end(), m.patches[at(p)].name) != standing.end(); };
  std::vector<Narrow> narrow(faces.size());
  parallel_for(faces.size(), [&](std::size_t i) {
    const int f = faces[i], first = m.face_start[at(f)], n = m.face_start[at(f) + 1] - first;
    const PolygonMeasure face = measure_polygon(m.points, &m.face_points[at(first)], n);
    const Vec3 into_air = -unit(face.area);
    double edge = 0;
    for (int k = first; k < first + n; ++k) edge = std::max(edge, leaf[at(m.face_points[at(k)])]);
    const double start = 0.05 * edge;
    const auto hit = rays.first_crossing(face.centre + into_air * start, face.centre + into_air * (least * edge));
    if (!hit || dot(hit->normal, into_air) < facing) return;
    const int own = patch_of[at(f)], other = patch_of[at(walls.face_of[at(hit->triangle)])];
    if (m.patches[at(other)].kind == PatchKind::road && stands(own)) return;
    narrow[i] = {own, other, start + hit->distance, edge, norm(face.area), face.centre + into_air * (0.5 * (start + hit->distance))};
  }, 64);
  std::erase_if(narrow, [](const Narrow& n) { return n.patch < 0; });
  std::stable_sort(narrow.begin(), narrow.end(), [](const Narrow& a, const Narrow& b) { return a.width / a.leaf < b.width / b.leaf; });

  std::vector<NarrowGap> gaps;
  std::vector<char> taken(narrow.size(), 0);
  for (std::size_t i = 0; i < narrow.size(); ++i) {
    if (taken[i]) continue;
    const Narrow& least_one = narrow[i];
    const auto name = [&](int p) { return m.patches[at(p)].kind == PatchKind::road ? std::string("road") : m.patches[at(p)].name; };
    NarrowGap gap{least_one.place, least_one.width, least_one.width / least_one.leaf, 0, name(least_one.patch), name(least_one.other)};
    for (std::size_t j = i; j < narrow.size(); ++j)
      if (!taken[j] && norm(narrow[j].place - least_one.place) < one_place * least_one.leaf) taken[j] = 1, gap.area += narrow[j].area;
    if (gap.area > smallest * least_one.leaf * least_one.leaf) gaps.push_back(gap);
  }
  return gaps;
}

}  // namespace dunefield
