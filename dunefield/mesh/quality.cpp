#include <dunefield/mesh/quality.hpp>

#include <numbers>
#include <numeric>

namespace dunefield {

namespace {
std::size_t at(int i) { return static_cast<std::size_t>(i); }
}  // namespace

MeshQuality measure_quality(const VolumeMesh& m) {
  MeshQuality q;
  q.cells = m.cells, q.faces = m.faces(), q.points = static_cast<int>(m.points.size());
  std::vector<Vec3> sum(at(m.cells));
  std::vector<double> size(at(m.cells), 0.0);
  q.smallest_face_weight = 0.5;
  q.smallest_volume_ratio = 1;
  int over_70 = 0;
  double angles = 0;
  for (int f = 0; f < m.faces(); ++f) {
    const Vec3 s = m.face_area[at(f)], n = unit(s);
    const int below = m.cell_below[at(f)];
    const bool inner = f < m.interior_faces();
    sum[at(below)] += s, size[at(below)] += norm(s);
    const Vec3 from = m.cell_centre[at(below)];
    const Vec3 to = inner ? m.cell_centre[at(m.cell_above[at(f)])] : m.face_centre[at(f)];
    const double h_below = dot(n, m.face_centre[at(f)] - from);
    if (h_below <= 0) ++q.negative_pyramids;
    for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k)
      q.largest_unflatness = std::max(q.largest_unflatness, std::abs(dot(n, m.points[at(m.face_points[at(k)])] - m.face_centre[at(f)])) / std::sqrt(norm(s) + 1e-300));
    const Vec3 d = to - from;
    const double angle = std::acos(std::clamp(dot(n, d) / (norm(d) + 1e-300), -1.0, 1.0)) * 180 / std::numbers::pi;
    angles += angle;
    over_70 += angle > 70;
    if (angle > q.largest_non_orthogonality) q.largest_non_orthogonality = angle, q.largest_non_orthogonality_at = m.face_centre[at(f)];
    if (!inner) continue;
    const int above = m.cell_above[at(f)];
    sum[at(above)] -= s, size[at(above)] += norm(s);
    const double h_above = dot(n, to - m.face_centre[at(f)]);
    if (h_above <= 0) ++q.negative_pyramids;
    q.smallest_face_weight = std::min(q.smallest_face_weight, std::min(h_below, h_above) / (h_below + h_above));
    const Vec3 meets = from + d * (h_below / dot(n, d));
    q.largest_skewness = std::max(q.largest_skewness, norm(meets - m.face_centre[at(f)]) / norm(d));
    const double a = m.cell_volume[at(below)], b = m.cell_volume[at(above)];
    q.smallest_volume_ratio = std::min(q.smallest_volume_ratio, std::min(a, b) / std::max(a, b));
  }
  q.mean_non_orthogonality = angles / std::max(1, m.faces());
  q.share_over_70_degrees = double(over_70) / std::max(1, m.faces());
  q.smallest_volume = 1e300;
  for (int c = 0; c < m.cells; ++c) {
    q.worst_closure = std::max(q.worst_closure, norm(sum[at(c)]) / size[at(c)]);
    if (m.cell_volume[at(c)] < q.smallest_volume) q.smallest_volume = m.cell_volume[at(c)], q.smallest_volume_at = m.cell_centre[at(c)];
  }
  return q;
}

double air_volume(const VolumeMesh& m) { return std::accumulate(m.cell_volume.begin(), m.cell_volume.end(), 0.0); }

double wetted_area(const VolumeMesh& m) {
  double sum = 0;
  for (const Patch& p : m.patches)
    if (p.kind == PatchKind::part)
      for (int f = p.first; f < p.first + p.count; ++f) sum += norm(m.face_area[at(f)]);
  return sum;
}

}  // namespace dunefield
