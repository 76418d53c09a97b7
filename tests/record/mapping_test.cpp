// Fields of one mesh as the start on another.
#include <gtest/gtest.h>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/record/mapping.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

VolumeMesh around_ball(double size) {
  MeshOptions o;
  o.surface_size = size, o.largest_size = 4 * size;
  return build_mesh(sphere("ball", {0, 0, 0.6}, 0.3, 32), Box{{-2, -1, 0}, {2, 1, 2}}, o).mesh;
}

Fields linear(const VolumeMesh& m, const Vec3& slope) {
  Fields f;
  for (const Vec3& x : m.cell_centre)
    f.u.push_back({dot(slope, x), 1, 0}), f.p.push_back(dot(slope, x)), f.k.push_back(2 + x.x);
  return f;
}

TEST(Mapping, OntoTheSameMeshChangesNothing) {
  const VolumeMesh mesh = around_ball(0.1);
  const Fields before = linear(mesh, {1, 2, -1}), after = mapped(mesh, before, mesh);
  for (std::size_t c = 0; c < before.p.size(); ++c) EXPECT_NEAR(after.p[c], before.p[c], 1e-6);
  EXPECT_TRUE(after.omega.empty()) << "what was not there is not made up";
}

TEST(Mapping, FromACoarserMeshIsRightWithinHalfACellAndNewInNothing) {
  const VolumeMesh coarse = around_ball(0.1), fine = around_ball(0.05);
  const Vec3 slope{1, 2, -1};
  const Fields of_coarse = linear(coarse, slope), on_fine = mapped(coarse, of_coarse, fine);
  ASSERT_EQ(on_fine.p.size(), static_cast<std::size_t>(fine.cells));
  EXPECT_LT(rms_error(fine, on_fine.p, [&](const Vec3& x) { return dot(slope, x); }),
            0.2 * norm(slope))
      << "largest cells are 0.4";
  const auto [least, most] = std::minmax_element(of_coarse.p.begin(), of_coarse.p.end());
  for (const double p : on_fine.p) EXPECT_TRUE(p >= *least && p <= *most);
  for (const Vec3& u : on_fine.u) EXPECT_NEAR(u.y, 1, 1e-12) << "weights add up to one";
}

TEST(Mapping, GivesASolverAStartCloserToTheEnd) {
  const VolumeMesh coarse = around_ball(0.12), fine = around_ball(0.08);
  const auto flow_of = [](const VolumeMesh& m) {
    std::vector<BoundaryCondition> c;
    for (const Boundary& p : m.boundaries)
      c.push_back(p.kind == BoundaryKind::part      ? wall()
                  : p.kind == BoundaryKind::inflow  ? stream({1, 0, 0})
                  : p.kind == BoundaryKind::outflow ? outflow()
                                                    : slip());
    FlowCase flow = laminar(0.01, c);
    flow.initial_velocity = {1, 0, 0};
    return flow;
  };
  const FlowCase on_coarse = flow_of(coarse), on_fine = flow_of(fine);
  const Fields start = mapped(coarse, solve(coarse, on_coarse, 150, 1e-6).fields, fine);
  const double final_drag = solve(fine, on_fine, 300, 1e-7).cd_history.back();
  const auto after_ten = [&](bool from_coarse) {
    SoloCommunicator solo;
    const std::vector<double> distance(static_cast<std::size_t>(fine.cells), 1.0);
    const FlowMesh m = distribute(&fine, &distance, solo);
    FlowSolver solver(m, on_fine, solo);
    from_coarse ? solver.start_from(start) : solver.start();
    for (int i = 0; i < 10; ++i) solver.iterate();
    return measure_balance(solver.state(), false).total().force.x;
  };
  EXPECT_LT(std::abs(after_ten(true) - final_drag), 0.3 * std::abs(after_ten(false) - final_drag));
}

TEST(StageClock, CountsAnInnerStageOnceOnly) {
  const auto wait = [](int ms) {
    for (const auto until = std::chrono::steady_clock::now() + std::chrono::milliseconds(ms);
         std::chrono::steady_clock::now() < until;) {
    }
  };
  StageClock clock;
  {
    const StageClock::Scope outer(clock, Stage::turbulence);
    wait(20);
    {
      const StageClock::Scope inner(clock, Stage::gradients);
      wait(20);
    }
  }
  EXPECT_GE(clock.seconds(Stage::turbulence), 0.02);
  EXPECT_GE(clock.seconds(Stage::gradients), 0.02);
  EXPECT_EQ(clock.seconds(Stage::momentum_solve), 0);
}

}  // namespace
}  // namespace dunefield::test
