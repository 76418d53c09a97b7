#include <dunefield/record/taps.hpp>

#include <set>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/mesh/wall_triangles.hpp>
#include <dunefield/record/points.hpp>

namespace dunefield {
namespace {

const std::string& part_of(const VolumeMesh& m, int face) {
  for (const Boundary& p : m.boundaries)
    if (face >= p.first && face < p.first + p.count) return p.name;
  return m.boundaries.front().name;
}

}  // namespace

Rake rake_grid(const std::string& name, const Vec3& from, const Vec3& to, const Vec3& far_side,
               int along, int across) {
  Rake rake{name, {}};
  const std::vector<Vec3> line = points_along(from, to, along);
  for (const Vec3& start : points_along(from, far_side, across))
    for (const Vec3& p : line) rake.points.push_back(p + (start - from));
  return rake;
}

Probes::Probes(const VolumeMesh& mesh, const std::vector<Tap>& taps, const std::vector<Rake>& rakes,
               bool half)
    : mesh_(mesh), half_(half) {
  if (!taps.empty()) {
    const WallTriangles walls =
        wall_triangles(mesh, [](const Boundary& p) { return p.kind == BoundaryKind::part; });
    const NearestTree tree(walls.surface);
    for (const Tap& tap : taps) {
      const auto found = tree.nearest(meshed_side(tap.place, half), 1e6);
      if (found.triangle < 0) continue;
      const int face = walls.face_of[at(static_cast<int>(found.triangle))];
      TapReading r{tap.name, part_of(mesh, face), found.point, found.distance};
      if (half && tap.place.y < 0) r.place.y = -r.place.y;
      taps_.push_back({r, face - mesh.interior_faces()});
    }
  }
  if (rakes.empty()) return;
  sampler_.emplace(mesh);
  for (const Rake& rake : rakes)
    for (const Vec3& place : rake.points) {
      const Vec3 x = meshed_side(place, half);
      const int cell = sampler_->cell_at(x).value_or(-1);
      points_.push_back({{rake.name, place, {}, 0, 0, 0, cell >= 0}, x, cell});
    }
}

std::vector<TapReading> Probes::taps(const FlowReadings& field,
                                     const ReferenceValues& reference) const {
  std::vector<TapReading> readings;
  for (const FoundTap& tap : taps_) {
    TapReading r = tap.at;
    r.pressure = field.loads[at(tap.load)].pressure_at - field.undisturbed;
    r.cp = r.pressure / reference.dynamic_pressure();
    readings.push_back(std::move(r));
  }
  return readings;
}

std::vector<RakeReading> Probes::rakes(const FlowReadings& field,
                                       const ReferenceValues& reference) const {
  std::vector<RakeReading> readings;
  for (const FoundPoint& p : points_) {
    RakeReading r = p.at;
    if (r.air) {
      r.velocity = sampler_->value_at(p.cell, field.velocity, p.x);
      if (half_ && r.place.y < 0) r.velocity.y = -r.velocity.y;
      r.pressure =
          reference.density * sampler_->value_at(p.cell, field.pressure, p.x) - field.undisturbed;
      r.cp = r.pressure / reference.dynamic_pressure();
      r.total_cp = r.cp + norm2(r.velocity) / (reference.speed * reference.speed);
    }
    readings.push_back(std::move(r));
  }
  return readings;
}

std::vector<int> Probes::loads() const {
  std::set<int> wanted;
  for (const FoundTap& tap : taps_) wanted.insert(tap.load);
  return {wanted.begin(), wanted.end()};
}

/// A mean over neighbours, each with the gradient over its own.
std::vector<int> Probes::cells() const {
  std::set<int> wanted;
  for (const FoundPoint& p : points_)
    if (p.cell >= 0) wanted.insert(p.cell);
  if (wanted.empty()) return {};
  const CellFaces rows = faces_of_cells(mesh_);
  for (int ring = 0; ring < 2; ++ring) {
    const std::set<int> inner = wanted;
    for (const int c : inner)
      for (int r = rows.start[at(c)]; r < rows.start[at(c) + 1]; ++r)
        if (const int f = rows.face[at(r)]; f < mesh_.interior_faces())
          wanted.insert(mesh_.cell_below[at(f)]), wanted.insert(mesh_.cell_above[at(f)]);
  }
  return {wanted.begin(), wanted.end()};
}

std::vector<TapReading> read_taps(const FlowReadings& field, const std::vector<Tap>& taps,
                                  const ReferenceValues& reference) {
  return Probes(field.mesh, taps, {}, field.half).taps(field, reference);
}

std::vector<RakeReading> read_rakes(const FlowReadings& field, const std::vector<Rake>& rakes,
                                    const ReferenceValues& reference) {
  return Probes(field.mesh, {}, rakes, field.half).rakes(field, reference);
}

}  // namespace dunefield
