// The momentum that the stream has lost behind a body is the body's drag.
#include <gtest/gtest.h>

#include <dunefield/record/planes.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

TEST(WakePlane, ShowsTheDragOfASphere) {
  const VolumeMesh mesh = sphere_mesh(0.07).mesh;
  const FlowCase flow = sphere_case(mesh, 100);
  run_on_threads(2, [&](Communicator& comm) {
    const bool root = comm.rank() == 0;
    const std::vector<double> distance = wall_distances(mesh, flow.conditions);
    const FlowMesh share = distribute(root ? &mesh : nullptr, root ? &distance : nullptr, comm);
    FlowSolver solver(share, flow, comm);
    solver.start();
    for (int i = 0; i < 100; ++i) solver.iterate();
    solver.close_mass();
    const double drag = measure_balance(solver.state(), false).total().force.x;
    const Fields fields = solver.gather();
    const std::vector<double> viscosity(static_cast<std::size_t>(mesh.cells),
                                        flow.air.kinematic_viscosity);
    for (const double x : {1.5, 3.1}) {
      const double brought = momentum_loss(solver.state(), false, x);
      if (!root) continue;
      const double left =
          section_momentum({mesh, {}, fields.u, fields.p, 0, false}, x, viscosity, 1);
      EXPECT_NEAR((brought - left) / drag, 1, 0.02) << "at " << x;
    }
  });
}

}  // namespace
}  // namespace dunefield::test
