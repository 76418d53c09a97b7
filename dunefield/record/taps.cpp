#include <dunefield/record/taps.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/mesh/wall_triangles.hpp>
#include <dunefield/record/points.hpp>
#include <dunefield/record/sampler.hpp>

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

std::vector<TapReading> read_taps(const FlowReadings& field, const std::vector<Tap>& taps,
                                  const ReferenceValues& reference) {
  std::vector<TapReading> readings;
  if (taps.empty()) return readings;
  const VolumeMesh& m = field.mesh;
  const WallTriangles walls =
      wall_triangles(m, [](const Boundary& p) { return p.kind == BoundaryKind::part; });
  const NearestTree tree(walls.surface);
  for (const Tap& tap : taps) {
    const auto found = tree.nearest(meshed_side(tap.place, field.half), 1e6);
    if (found.triangle < 0) continue;
    const int face = walls.face_of[at(static_cast<int>(found.triangle))];
    TapReading r{tap.name,
                 part_of(m, face),
                 found.point,
                 found.distance,
                 field.loads[at(face - m.interior_faces())].pressure_at - field.undisturbed,
                 0};
    if (field.half && tap.place.y < 0) r.place.y = -r.place.y;
    r.cp = r.pressure / reference.dynamic_pressure();
    readings.push_back(r);
  }
  return readings;
}

std::vector<RakeReading> read_rakes(const FlowReadings& field, const std::vector<Rake>& rakes,
                                    const ReferenceValues& reference) {
  std::vector<RakeReading> readings;
  if (rakes.empty()) return readings;
  const Sampler sampler(field.mesh);
  for (const Rake& rake : rakes)
    for (const Vec3& place : rake.points) {
      RakeReading r{rake.name, place, {}, 0, 0, 0, false};
      const Vec3 x = meshed_side(place, field.half);
      if (const auto cell = sampler.cell_at(x)) {
        r.air = true;
        r.velocity = sampler.value_at(*cell, field.velocity, x);
        if (field.half && place.y < 0) r.velocity.y = -r.velocity.y;
        r.pressure =
            reference.density * sampler.value_at(*cell, field.pressure, x) - field.undisturbed;
        r.cp = r.pressure / reference.dynamic_pressure();
        r.total_cp = r.cp + norm2(r.velocity) / (reference.speed * reference.speed);
      }
      readings.push_back(r);
    }
  return readings;
}

}  // namespace dunefield
