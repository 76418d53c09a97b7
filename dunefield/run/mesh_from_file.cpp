#include <dunefield/run/run_setup.hpp>

#include <chrono>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/files/cgns.hpp>
#include <dunefield/files/vtu.hpp>
#include <dunefield/geometry/query/surface_query.hpp>

namespace dunefield {
namespace {

bool has(const VolumeMesh& m, BoundaryKind kind) {
  return std::any_of(m.boundaries.begin(), m.boundaries.end(),
                     [&](const Boundary& p) { return p.kind == kind && p.count > 0; });
}

Box bounds_of_parts(const VolumeMesh& m) {
  Box box;
  for (const Boundary& p : m.boundaries)
    for (int f = p.first; p.kind == BoundaryKind::part && f < p.first + p.count; ++f)
      box.include(m.face_centre[at(f)]);
  return box;
}

void check_fit(const VolumeMesh& m, const RunSetup& setup) {
  const std::string file = setup.mesh_file.string();
  for (const auto& [kind, name] : {std::pair{BoundaryKind::inflow, "inflow"},
                                   {BoundaryKind::outflow, "outflow"},
                                   {BoundaryKind::part, "wall of the vehicle"}})
    if (!has(m, kind))
      throw InputError(fmt::format("the mesh has no {}", name), file,
                       "name the boundary's condition in the file");
  const bool half = setup.tunnel.half;
  if (has(m, BoundaryKind::centre_plane) != half)
    throw InputError(half ? "a half model is asked for, but the mesh has no centre plane"
                          : "the mesh has a centre plane, but the whole vehicle is asked for",
                     file, "set half in [tunnel] to what the mesh is");
  Box vehicle = bounds(setup.vehicle.surface);
  if (half) vehicle.lo.y = std::max(vehicle.lo.y, 0.0);
  const Box parts = bounds_of_parts(m);
  const double off = std::max(norm(parts.lo - vehicle.lo), norm(parts.hi - vehicle.hi)),
               allowed = 0.05 * norm(vehicle.size());
  if (off <= allowed) return;
  const auto told = [](const Box& b) {
    return fmt::format("from ({:.2f}, {:.2f}, {:.2f}) to ({:.2f}, {:.2f}, {:.2f}) m", b.lo.x,
                       b.lo.y, b.lo.z, b.hi.x, b.hi.y, b.hi.z);
  };
  throw InputError(fmt::format("the mesh's vehicle reaches {}, that of the files {}", told(parts),
                               told(vehicle)),
                   file,
                   "meshes are in metres, nose towards -x, road at z = 0, x = 0 at mid-wheelbase");
}

bool names_a_part(const VolumeMesh& m, const Surface& vehicle) {
  return std::any_of(m.boundaries.begin(), m.boundaries.end(), [&](const Boundary& p) {
    return p.kind == BoundaryKind::part && p.count > 0 && vehicle.find_part(p.name) >= 0;
  });
}

/// Where no wall of the mesh has the name of a part, each wall face goes to the part of the vehicle
/// that is nearest.
void name_walls(VolumeMesh& m, const Surface& vehicle, Findings& findings) {
  if (names_a_part(m, vehicle)) return;
  const SurfaceQuery query(vehicle);
  const double reach = norm(bounds(vehicle).size());
  std::vector<std::vector<int>> faces(vehicle.part_names.size());
  std::vector<Boundary> boundaries;
  for (const Boundary& p : m.boundaries) {
    if (p.kind != BoundaryKind::part)
      boundaries.push_back(p);
    else
      for (int f = p.first; f < p.first + p.count; ++f) {
        const auto hit = query.nearest(m.face_centre[at(f)], reach);
        faces[hit ? static_cast<std::size_t>(vehicle.part_of[at(hit->triangle)]) : 0].push_back(f);
      }
  }
  std::vector<int> order;
  for (Boundary& p : boundaries) {
    const int first = m.interior_faces() + static_cast<int>(order.size());
    for (int f = p.first; f < p.first + p.count; ++f) order.push_back(f);
    p.first = first;
  }
  for (std::size_t part = 0; part < faces.size(); ++part) {
    if (faces[part].empty()) continue;
    boundaries.push_back({vehicle.part_names[part], BoundaryKind::part,
                          m.interior_faces() + static_cast<int>(order.size()),
                          static_cast<int>(faces[part].size())});
    order.insert(order.end(), faces[part].begin(), faces[part].end());
  }
  m.reorder_boundary(order, std::move(boundaries));
  findings.note(
      "the walls of the mesh have no names of parts: each face was counted to the part of the "
      "vehicle nearest to it");
}

void list_names(const VolumeMesh& m, const Surface& vehicle, Findings& findings) {
  for (const Boundary& p : m.boundaries)
    if (p.kind == BoundaryKind::part && p.count > 0 && vehicle.find_part(p.name) < 0)
      findings.note(fmt::format(
          "boundary '{}' of the mesh is no part of the vehicle: it is a wall that stands still",
          p.name));
  for (const std::string& name : vehicle.part_names) {
    const bool there =
        std::any_of(m.boundaries.begin(), m.boundaries.end(),
                    [&](const Boundary& p) { return p.name == name && p.count > 0; });
    const bool mirrored =
        has(m, BoundaryKind::centre_plane) && bounds(vehicle, vehicle.find_part(name)).hi.y <= 0;
    if (!there && !mirrored)
      findings.note(fmt::format("part '{}' has no boundary in the mesh", name));
  }
}

}  // namespace

MeshResult mesh_from_file(const RunSetup& setup, const Progress& progress) {
  const auto start = std::chrono::steady_clock::now();
  const Surface& vehicle = setup.vehicle.surface;
  progress("reading", 0);
  MeshResult r;
  r.mesh = setup.mesh_file.extension() == ".vtu" ? read_vtu(setup.mesh_file)
                                                 : read_cgns(setup.mesh_file);
  check_fit(r.mesh, setup);
  name_walls(r.mesh, vehicle, r.findings);
  progress("measures", 0.8);
  for (const Vec3& p : r.mesh.points) r.tunnel.include(p);
  r.quality = measure_quality(r.mesh);
  list_names(r.mesh, vehicle, r.findings);
  report_quality(r.quality, r.findings);
  if (!r.quality.sound())
    throw MeshError(
        fmt::format("the mesh is not sound: {} face pyramids not positive, {} regions of air, "
                    "closure {:.1e}",
                    r.quality.negative_pyramids, r.quality.regions, r.quality.worst_closure),
        setup.mesh_file.string(), "mend it where it was made");
  r.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return r;
}

}  // namespace dunefield
