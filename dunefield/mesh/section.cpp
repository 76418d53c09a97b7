#include <dunefield/mesh/section.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/base/index.hpp>

namespace dunefield {
PlaneAxes::PlaneAxes(const Vec3& normal) {
  const bool level = std::abs(normal.z) > 0.999;
  across = level ? Vec3{0, 1, 0} : unit(cross(Vec3{0, 0, 1}, normal));
  across = unit(across - normal * dot(across, normal));
  up = cross(normal, across);
}

std::vector<Vec3> cell_section(const VolumeMesh& m, const CellFaces& rows, int cell,
                               const Plane& plane) {
  // Where the cell's edges cross the plane, sorted round their mean.
  std::vector<Vec3> corner;
  std::vector<std::uint64_t> seen;
  visit_crossings(m, rows, cell, plane, [&](int a, int b, double share) {
    const std::uint64_t edge = edge_key(a, b);
    if (std::find(seen.begin(), seen.end(), edge) != seen.end()) return;
    seen.push_back(edge);
    corner.push_back(m.points[at(a)] + (m.points[at(b)] - m.points[at(a)]) * share);
  });
  if (corner.size() < 3) return {};
  Vec3 mean;
  for (const Vec3& c : corner) mean += c / static_cast<double>(corner.size());
  const PlaneAxes axes(plane.normal);
  const auto angle = [&](const Vec3& p) {
    return std::atan2(dot(p - mean, axes.up), dot(p - mean, axes.across));
  };
  std::sort(corner.begin(), corner.end(),
            [&](const Vec3& a, const Vec3& b) { return angle(a) < angle(b); });
  return corner;
}

std::vector<int> cut_cells(const VolumeMesh& m, const Plane& plane) {
  std::vector<char> before(m.points.size());
  for (std::size_t p = 0; p < before.size(); ++p) before[p] = plane.height(m.points[p]) > 0;
  std::vector<char> cut(at(m.cells), 0);
  for (int f = 0; f < m.faces(); ++f) {
    const char first = before[at(m.face_points[at(m.face_start[at(f)])])];
    for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k)
      if (before[at(m.face_points[at(k)])] != first) {
        cut[at(m.cell_below[at(f)])] = 1;
        if (f < m.interior_faces()) cut[at(m.cell_above[at(f)])] = 1;
        break;
      }
  }
  std::vector<int> cells;
  for (int c = 0; c < m.cells; ++c)
    if (cut[at(c)]) cells.push_back(c);
  return cells;
}

std::vector<Vec3> clipped(const std::vector<Vec3>& outline,
                          const std::function<double(const Vec3&)>& height) {
  std::vector<Vec3> out;
  for (std::size_t i = 0; i < outline.size(); ++i) {
    const Vec3 &a = outline[i], &b = outline[(i + 1) % outline.size()];
    const double ha = height(a), hb = height(b);
    if (ha >= 0) out.push_back(a);
    if ((ha >= 0) != (hb >= 0)) out.push_back(a + (b - a) * (ha / (ha - hb)));
  }
  return out;
}

std::vector<Vec3> within(std::vector<Vec3> outline, const Box& frame) {
  for (const int axis : {0, 2}) {
    outline = clipped(outline, [&](const Vec3& p) { return p[axis] - frame.lo[axis]; });
    outline = clipped(outline, [&](const Vec3& p) { return frame.hi[axis] - p[axis]; });
  }
  return outline;
}

}  // namespace dunefield
