// Records whose flow is given by formulas, on meshes of our own.
#pragma once

#include <functional>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/look/picture.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield::test {

/// @param u velocity, p pressure over density, of place
inline Record made_up_record(VolumeMesh mesh, const std::function<Vec3(const Vec3&)>& u,
                             const std::function<double(const Vec3&)>& p, bool half = false) {
  Record r;
  r.run.variant = "made up", r.run.speed = 1, r.run.half = half;
  r.reference = {1, 1, 1, 1};
  r.status = RunStatus::steady;
  for (const Vec3& x : mesh.points) r.tunnel.include(x);
  for (const Boundary& b : mesh.boundaries)
    if (b.kind == BoundaryKind::part)
      for (int f = b.first; f < b.first + b.count; ++f) r.vehicle.include(mesh.face_centre[at(f)]);
  if (r.vehicle.empty()) r.vehicle = r.tunnel;
  for (const Vec3& x : mesh.cell_centre) r.fields.u.push_back(u(x)), r.fields.p.push_back(p(x));
  r.loads.resize(mesh.face_centre.size() - at(mesh.interior_faces()));
  for (std::size_t i = 0; i < r.loads.size(); ++i) {
    const std::size_t f = at(mesh.interior_faces()) + i;
    r.loads[i].pressure_at = p(mesh.face_centre[f]);
    r.loads[i].friction = u(mesh.face_centre[f]) * norm(mesh.face_area[f]);
  }
  r.mesh = std::make_shared<const VolumeMesh>(std::move(mesh));
  return r;
}

/// A ball of radius 0.5 m about (0, 0, 1), in a box from -2 to 2 m, with layers.
inline const MeshResult& ball_mesh(bool half = false) {
  const auto make = [](bool one_half) {
    MeshOptions o;
    o.surface_size = 0.1, o.largest_size = 0.2, o.half = one_half;
    return build_mesh(sphere("ball", {0, 0, 1}, 0.5, 48),
                      Box{{-2, one_half ? 0.0 : -2.0, 0}, {2, 2, 2}}, o);
  };
  static const MeshResult whole = make(false), one_half = make(true);
  return half ? one_half : whole;
}

/// Half a ball in a stream that opens sideways.
inline const Record& half_ball() {
  static const Record r = made_up_record(
      ball_mesh(true).mesh,
      [](const Vec3& x) {
        return Vec3{1, 0.1 * x.y, 0};
      },
      [](const Vec3& x) { return 0.5 * x.x; }, true);
  return r;
}
inline std::shared_ptr<const FlowView> view_of_half_ball() {
  static const auto v = std::make_shared<const FlowView>(half_ball());
  return v;
}

}  // namespace dunefield::test
