#include <dunefield/mesh/quality/quality.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <numbers>
#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

namespace {

constexpr std::size_t most_places = 10;

/// A measure before anything is measured. From its limit on errors and the number of iterations
/// grow; what is tolerated is the most with which flows were seen to converge (bench/mesh_needs).
MeasureSummary unmeasured(const char* name, const char* unit, double limit, double tolerated,
                          std::vector<double> steps) {
  MeasureSummary s;
  s.name = name, s.unit = unit, s.limit = limit, s.tolerated = tolerated;
  s.steps = std::move(steps);
  return s;
}

constexpr double anything = std::numeric_limits<double>::infinity();

/// Values with their places, put into a summary.
void summarize(MeasureSummary& s, const std::vector<double>& values,
               const std::vector<Vec3>& places, bool faces) {
  s.classes.assign(s.steps.size() + 1, 0);
  s.count = static_cast<std::int64_t>(values.size());
  const auto worse = [](double a, double b) { return a > b; };
  for (const double v : values) {
    s.mean += v / static_cast<double>(values.size());
    s.beyond += worse(v, s.limit);
    ++s.classes[at(std::upper_bound(s.steps.begin(), s.steps.end(), v) - s.steps.begin())];
  }
  // Of neighbours only the worst is listed.
  std::vector<int> order(values.size());
  std::iota(order.begin(), order.end(), 0);
  const auto some = order.begin() + static_cast<std::ptrdiff_t>(
                                        std::min<std::size_t>(order.size(), 20 * most_places));
  std::partial_sort(order.begin(), some, order.end(), [&](int a, int b) {
    return values[at(a)] != values[at(b)] ? worse(values[at(a)], values[at(b)]) : a < b;
  });
  for (auto i = order.begin(); i != some && s.worst.size() < most_places; ++i) {
    const Vec3& p = places[at(*i)];
    if (std::any_of(s.worst.begin(), s.worst.end(),
                    [&](const MeasuredPlace& w) { return norm(w.place - p) < 0.02; }))
      continue;
    s.worst.push_back({values[at(*i)], p, faces ? *i : -1});
  }
}

int count_regions(const VolumeMesh& m) {
  std::vector<int> parent(at(m.cells));
  std::iota(parent.begin(), parent.end(), 0);
  const auto root = [&](int c) {
    while (parent[at(c)] != c) c = parent[at(c)] = parent[at(parent[at(c)])];
    return c;
  };
  for (int f = 0; f < m.interior_faces(); ++f)
    parent[at(root(m.cell_above[at(f)]))] = root(m.cell_below[at(f)]);
  int count = 0;
  for (int c = 0; c < m.cells; ++c) count += parent[at(c)] == c;
  return count;
}

/// What is measured at faces: all of them, those inside first.
struct FaceValues {
  std::vector<double> obliquity, warp, offset, one_sidedness, size_step;
  std::vector<char> pyramids;  ///< that are not positive
  explicit FaceValues(const VolumeMesh& m)
      : obliquity(at(m.faces())),
        warp(obliquity),
        offset(at(m.interior_faces())),
        one_sidedness(offset),
        size_step(offset),
        pyramids(at(m.faces())) {
    parallel_for(
        obliquity.size(), [&](std::size_t f) { measure(m, f); }, 4096);
  }
  void measure(const VolumeMesh& m, std::size_t f) {
    const Vec3 s = m.face_area[f], n = unit(s), from = m.cell_centre[at(m.cell_below[f])];
    const bool inner = f < offset.size();
    const Vec3 to = inner ? m.cell_centre[at(m.cell_above[f])] : m.face_centre[f];
    const double h_below = dot(n, m.face_centre[f] - from);
    pyramids[f] = h_below <= 0;
    double off = 0, size = std::sqrt(norm(s)) + 1e-300;
    for (int k = m.face_start[f]; k < m.face_start[f + 1]; ++k) {
      const Vec3 arm = m.points[at(m.face_points[at(k)])] - m.face_centre[f];
      off = std::max(off, std::abs(dot(n, arm))), size = std::max(size, norm(arm));
    }
    warp[f] = off / size;
    const Vec3 d = to - from;
    obliquity[f] =
        std::acos(std::clamp(dot(n, d) / (norm(d) + 1e-300), -1.0, 1.0)) * 180 / std::numbers::pi;
    if (!inner) return;
    const double h_above = dot(n, to - m.face_centre[f]), across = dot(n, d);
    pyramids[f] = static_cast<char>(pyramids[f] + (h_above <= 0));
    const double near = std::min(h_below, h_above), far = std::max(h_below, h_above);
    one_sidedness[f] = near > 0 ? far / near : 1e3;
    offset[f] = across > 0 ? norm(from + d * (h_below / across) - m.face_centre[f]) / norm(d) : 1e3;
    const double a = m.cell_volume[at(m.cell_below[f])], b = m.cell_volume[at(m.cell_above[f])];
    size_step[f] = std::cbrt(std::max(a, b) / std::max(std::min(a, b), 1e-300));
  }
};

}  // namespace

bool MeshQuality::good() const {
  return sound() && std::none_of(summary.begin(), summary.end(),
                                 [](const MeasureSummary& s) { return s.bad(); });
}

MeshQuality empty_quality() {
  MeshQuality q;
  q.summary = {unmeasured("obliquity", "deg", 65, 84, {10, 20, 30, 40, 50, 65, 75}),
               unmeasured("offset", "", 1, 2, {0.05, 0.1, 0.2, 0.4, 0.6, 1, 2}),
               unmeasured("one-sidedness", "", 20, 28, {1.2, 1.5, 2, 3, 5, 10, 20}),
               unmeasured("size step", "", 3, 3.7, {1.1, 1.3, 1.6, 2, 2.5, 3}),
               unmeasured("slenderness", "", 100, anything, {1.5, 3, 6, 12, 25, 50, 100}),
               unmeasured("warp", "", 0.5, anything, {0.01, 0.03, 0.1, 0.2, 0.5})};
  return q;
}

MeshQuality measure_quality(const VolumeMesh& m) {
  MeshQuality q = empty_quality();
  q.cells = m.cells, q.faces = m.faces(), q.points = static_cast<int>(m.points.size());
  q.regions = count_regions(m);
  const FaceValues v(m);
  q.negative_pyramids = std::accumulate(v.pyramids.begin(), v.pyramids.end(), 0);
  std::vector<Vec3> sum(at(m.cells));
  std::vector<double> size(at(m.cells), 0.0), slenderness(at(m.cells), 0.0);
  for (int f = 0; f < m.faces(); ++f) {
    const double area = norm(m.face_area[at(f)]);
    const auto add = [&](int c, double sign) {
      sum[at(c)] += m.face_area[at(f)] * sign, size[at(c)] += area;
      slenderness[at(c)] = std::max(slenderness[at(c)], area);
    };
    add(m.cell_below[at(f)], 1);
    if (f < m.interior_faces()) add(m.cell_above[at(f)], -1);
  }
  q.smallest_volume = 1e300;
  for (int c = 0; c < m.cells; ++c) {
    q.worst_closure = std::max(q.worst_closure, norm(sum[at(c)]) / size[at(c)]);
    if (m.cell_volume[at(c)] < q.smallest_volume)
      q.smallest_volume = m.cell_volume[at(c)], q.smallest_volume_at = m.cell_centre[at(c)];
    slenderness[at(c)] /= std::pow(std::max(m.cell_volume[at(c)], 1e-300), 2.0 / 3.0);
  }
  const std::vector<Vec3> inner_places(m.face_centre.begin(),
                                       m.face_centre.begin() + m.interior_faces());
  const std::vector<double>* values[measures] = {&v.obliquity, &v.offset,    &v.one_sidedness,
                                                 &v.size_step, &slenderness, &v.warp};
  const std::vector<Vec3>* places[measures] = {&m.face_centre, &inner_places,  &inner_places,
                                               &inner_places,  &m.cell_centre, &m.face_centre};
  parallel_for(
      measures,
      [&](std::size_t i) {
        summarize(q.summary[i], *values[i], *places[i],
                  static_cast<Measure>(i) != Measure::slenderness);
      },
      1);
  return q;
}

void report_quality(const MeshQuality& q, Findings& findings) {
  for (const MeasureSummary& s : q.summary) {
    if (!s.bad()) continue;
    const Vec3& p = s.worst[0].place;
    findings.warn(fmt::format(
        "the mesh is worse than it should be: {} {:.3g}{} at ({:.3f}, {:.3f}, {:.3f}) m", s.name,
        s.worst_value(), s.unit.empty() ? "" : " " + s.unit, p.x, p.y, p.z));
  }
}

double air_volume(const VolumeMesh& m) {
  return std::accumulate(m.cell_volume.begin(), m.cell_volume.end(), 0.0);
}

double wetted_area(const VolumeMesh& m) {
  double sum = 0;
  for (const Boundary& p : m.boundaries)
    if (p.kind == BoundaryKind::part)
      for (int f = p.first; f < p.first + p.count; ++f) sum += norm(m.face_area[at(f)]);
  return sum;
}

}  // namespace dunefield
