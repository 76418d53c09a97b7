#include <dunefield/record/build_up.hpp>

#include <algorithm>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

template <class Visit>
void for_vehicle_faces(const VolumeMesh& m, const Visit& visit) {
  for (const Boundary& p : m.boundaries)
    for (int f = p.first; p.kind == BoundaryKind::part && f < p.first + p.count; ++f) visit(f);
}

/// The x that a face reaches over.
std::pair<double, double> reach(const VolumeMesh& m, int f) {
  std::pair<double, double> r{1e300, -1e300};
  for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k) {
    const double x = m.points[at(m.face_points[at(k)])].x;
    r.first = std::min(r.first, x), r.second = std::max(r.second, x);
  }
  return r;
}

}  // namespace

BuildUp build_up(const VolumeMesh& m, const std::vector<WallLoad>& loads, double undisturbed,
                 bool half, int stations) {
  BuildUp out;
  double lo = 1e300, hi = -1e300;
  for_vehicle_faces(m, [&](int f) {
    const auto [a, b] = reach(m, f);
    lo = std::min(lo, a), hi = std::max(hi, b);
  });
  if (lo > hi) return out;
  for (int i = 0; i <= stations; ++i) out.station.push_back(lo + (hi - lo) * i / stations);
  out.pressure.resize(out.station.size()), out.friction.resize(out.station.size());
  for_vehicle_faces(m, [&](int f) {
    const WallLoad& load = loads[at(f - m.interior_faces())];
    const Vec3 pressure = load.pressure - m.face_area[at(f)] * undisturbed;
    const auto [a, b] = reach(m, f);
    // A face counts as far as it lies ahead of the station.
    for (std::size_t i = 0; i < out.station.size(); ++i) {
      const double share = b > a ? std::clamp((out.station[i] - a) / (b - a), 0.0, 1.0)
                                 : (out.station[i] >= a ? 1.0 : 0.0);
      if (share == 0) continue;
      out.pressure[i] += pressure * share, out.friction[i] += load.friction * share;
    }
  });
  if (half)
    for (auto* list : {&out.pressure, &out.friction})
      for (Vec3& v : *list) v = {2 * v.x, 0, 2 * v.z};
  return out;
}

}  // namespace dunefield
