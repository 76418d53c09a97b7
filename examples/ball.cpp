// Builds and runs a case in code: a ball 60 cm across, 40 cm above a rolling road, at 20 m/s.
//   example_ball
#include <cstdio>

#include <dunefield/dunefield.hpp>

using namespace dunefield;

int main() {
  const Surface ball = sphere("ball", {0, 0, 0.7}, 0.3, 64);

  MeshOptions options;
  options.surface_size = 0.04;  // leaf edge at the surface, m
  options.largest_size = 0.64;
  const MeshResult mesh = build_mesh(ball, Box{{-2.5, -2, 0}, {6, 2, 4}}, options);

  // One condition for each boundary of the mesh, chosen by what the boundary is.
  FlowCase flow;
  flow.reference_speed = 20;
  flow.initial_velocity = {20, 0, 0};
  std::vector<bool> walls;
  for (const Boundary& boundary : mesh.mesh.boundaries) {
    BoundaryCondition condition;  // slip unless said otherwise
    if (boundary.kind == BoundaryKind::inflow)
      condition = {ConditionKind::stream, {20, 0, 0}, {}, {}, {}};
    if (boundary.kind == BoundaryKind::outflow) condition.kind = ConditionKind::outflow;
    if (boundary.kind == BoundaryKind::road)
      condition = {ConditionKind::wall, {20, 0, 0}, {}, {}, {}};
    if (boundary.kind == BoundaryKind::part) condition.kind = ConditionKind::wall;
    flow.conditions.push_back(condition);
    walls.push_back(condition.kind == ConditionKind::wall);
  }
  const std::vector<double> distance = wall_distances(mesh.mesh, walls);

  run_on_threads(2, [&](Communicator& comm) {
    const bool root = comm.rank() == 0;
    const FlowMesh share =
        distribute(root ? &mesh.mesh : nullptr, root ? &distance : nullptr, comm);
    FlowSolver solver(share, flow, comm);
    solver.start();
    for (int i = 0; i < 150; ++i) solver.iterate();
    const Balance balance = measure_balance(solver.state(), false);
    const ReferenceValues reference{20, flow.air.density, frontal_area(ball), 0.6};
    if (!root) return;
    std::printf("CD %.3f on %d cells, %.2f N of it friction\n",
                coefficients(balance.total(), reference).cd, mesh.quality.cells,
                balance.friction().force.x);
  });
}
