// The demo van as the benchmarks run it: half of it, at any fineness, with layers, on its rolling
// road.
#pragma once

#include <algorithm>
#include <chrono>

#include <demo/garage.hpp>
#include <dunefield/dunefield.hpp>

namespace dunefield::bench {

inline const Surface& van() {
  static const Surface s = [] {
    Surface v = garage::marram();
    weld(v);
    return v;
  }();
  return s;
}

/// All leaf sizes times `ratio`.
inline void scale_sizes(MeshOptions& o, double ratio) {
  for (double* size : {&o.surface_size, &o.largest_size, &o.smallest_size, &o.edge_size})
    *size *= ratio;
  for (auto& [part, size] : o.part_size) size *= ratio;
  for (auto& b : o.boxes) b.size *= ratio;
}

/// @param per_length surface leaves along the vehicle
/// @param layers     0: as many as the recipe has
inline MeshResult van_mesh(double per_length, int layers = 0) {
  const Box box = bounds(van());
  MeshOptions o = mesh_recipe("scout", box, "");
  scale_sizes(o, box.size().x / per_length / o.surface_size);
  o.half = true;
  if (layers > 0) o.layers.count = layers;
  for (const Wheel& w : find_wheels(van())) o.standing_parts.push_back(w.part);
  TunnelOptions t;
  t.half = true;
  return build_mesh(van(), tunnel_box(box, frontal_area(van()), t), o);
}

/// Share of the cells that lie in layers or stand on them: one for each wall face of the vehicle.
inline double share_at_layers(const MeshResult& m) {
  int walls = 0;
  for (const Boundary& p : m.mesh.boundaries) walls += p.kind == BoundaryKind::part ? p.count : 0;
  return static_cast<double>(m.layers.cells + walls) / m.quality.cells;
}

inline FlowCase van_case(const VolumeMesh& mesh) {
  FlowCase c;
  c.reference_speed = 25;
  c.initial_velocity = {25, 0, 0};
  const auto wheels = find_wheels(van());
  for (const Boundary& p : mesh.boundaries) {
    BoundaryCondition bc;
    if (p.kind == BoundaryKind::inflow) bc.kind = ConditionKind::stream, bc.velocity = {25, 0, 0};
    if (p.kind == BoundaryKind::outflow) bc.kind = ConditionKind::outflow;
    if (p.kind == BoundaryKind::road) bc.kind = ConditionKind::wall, bc.velocity = {25, 0, 0};
    if (p.kind == BoundaryKind::part) bc.kind = ConditionKind::wall;
    for (const Wheel& w : wheels)
      if (w.part == p.name) bc.spin = w.spin(25), bc.spin_centre = w.centre;
    c.conditions.push_back(bc);
  }
  return c;
}

/// The same on any rank: conditions go by boundary, and a share of the mesh knows all of them.
inline FlowCase van_case(const FlowMesh& share) {
  VolumeMesh boundaries;
  for (const auto& p : share.boundaries) boundaries.boundaries.push_back({p.name, p.kind, 0, 0});
  return van_case(boundaries);
}

/// Time that the slowest rank takes, s.
double timed(Communicator& comm, const auto& work) {
  comm.sum(0.0);
  const auto began = std::chrono::steady_clock::now();
  work();
  return comm.max(std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count());
}

inline std::vector<double> van_wall_distances(const VolumeMesh& mesh) {
  std::vector<bool> walls;
  for (const Boundary& p : mesh.boundaries)
    walls.push_back(p.kind == BoundaryKind::part || p.kind == BoundaryKind::road);
  return wall_distances(mesh, walls);
}

/// Ten iterations, counted as a hundred: from there on each is like the next.
inline void begin(FlowSolver& solver) {
  solver.start();
  for (int i = 0; i < 10; ++i) solver.iterate();
  SolverState state = solver.save();
  state.iteration = 100;
  solver.restore(state);
}

}  // namespace dunefield::bench
