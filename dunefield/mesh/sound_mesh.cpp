#include <dunefield/mesh/sound_mesh.hpp>

#include <algorithm>
#include <atomic>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr char too_few_faces[] = "a cell has fewer than four faces";

/// Whether `holds(i)` for all i below n.
template <class Holds>
bool all_of(std::size_t n, const Holds& holds) {
  std::atomic<bool> good = true;
  parallel_for(
      n,
      [&](std::size_t i) {
        if (!holds(i)) good.store(false, std::memory_order_relaxed);
      },
      16384);
  return good;
}

bool all_within(const std::vector<int>& indices, std::size_t count) {
  return all_of(indices.size(), [&](std::size_t i) {
    return indices[i] >= 0 && static_cast<std::size_t>(indices[i]) < count;
  });
}

std::string fault_of_faces(const VolumeMesh& m) {
  const std::size_t faces = m.cell_below.size();
  if (m.face_start.size() != faces + 1 || m.cell_above.size() > faces)
    return "its lists of faces differ in length";
  if (m.face_start.front() != 0 ||
      static_cast<std::size_t>(m.face_start.back()) != m.face_points.size() ||
      !all_of(faces, [&](std::size_t f) { return m.face_start[f + 1] - m.face_start[f] >= 3; }))
    return "its faces have no proper lists of points";
  if (!all_within(m.face_points, m.points.size())) return "a face has a point that is not there";
  const auto cells = static_cast<std::size_t>(m.cells);
  if (cells > (faces + m.cell_above.size()) / 4)
    return too_few_faces;  // before anything is counted
  if (!all_within(m.cell_below, cells) || !all_within(m.cell_above, cells) ||
      !all_of(m.cell_above.size(),
              [&](std::size_t f) { return m.cell_below[f] != m.cell_above[f]; }))
    return "a face has a cell that is not there";
  std::vector<int> faces_of(cells, 0);
  for (const int c : m.cell_below) ++faces_of[at(c)];
  for (const int c : m.cell_above) ++faces_of[at(c)];
  if (*std::min_element(faces_of.begin(), faces_of.end()) < 4) return too_few_faces;
  return "";
}

std::string fault_of_boundaries(const VolumeMesh& m) {
  std::int64_t next = m.interior_faces();
  for (const Boundary& b : m.boundaries) {
    if (b.kind < BoundaryKind::inflow || b.kind > BoundaryKind::part)
      return "boundary '" + b.name + "' is of an unknown kind";
    if (b.first != next || b.count < 0) return "boundary '" + b.name + "' has no proper faces";
    next += b.count;
  }
  return next == m.faces() ? "" : "its boundaries have not as many faces as there are";
}

}  // namespace

std::string fault_of(const VolumeMesh& m) {
  constexpr double farthest = 1e9;  // m
  if (m.cells < 1 || m.points.empty() || m.face_start.empty()) return "it has no cells";
  if (!all_of(m.points.size(), [&](std::size_t i) {
        const Vec3& p = m.points[i];
        return std::abs(p.x) < farthest && std::abs(p.y) < farthest && std::abs(p.z) < farthest;
      }))
    return "a point is at no place";
  const std::string faces = fault_of_faces(m);
  return faces.empty() ? fault_of_boundaries(m) : faces;
}

}  // namespace dunefield
