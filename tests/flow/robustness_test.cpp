// What keeps the flow going on meshes that are not ideal, and what that must not change.
#include <gtest/gtest.h>

#include <algorithm>
#include <set>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

/// Cells 0, 1 and 4 of a 4 x 4 x 1 block as one, so that it has two faces with cell 5.
VolumeMesh with_corner_cell() {
  VolumeMesh m = structured_mesh(4, 4, 1, [](const Vec3& a) {
    return Vec3{a.x, a.y + 0.1 * a.x, 0.25 * a.z};
  });
  std::vector<int> number(16);
  int next = 0;
  for (int c = 0; c < 16; ++c) number[at(c)] = c == 1 || c == 4 ? 0 : next++;
  VolumeMesh out;
  out.points = m.points, out.cells = next, out.boundaries = m.boundaries, out.face_start = {0};
  std::vector<int> order;
  for (int f = 0; f < m.interior_faces(); ++f)
    if (number[at(m.cell_below[at(f)])] != number[at(m.cell_above[at(f)])]) order.push_back(f);
  std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
    return number[at(m.cell_below[at(a)])] < number[at(m.cell_below[at(b)])];
  });
  const int dropped = m.interior_faces() - static_cast<int>(order.size());
  for (int f = m.interior_faces(); f < m.faces(); ++f) order.push_back(f);
  for (const int f : order) {
    out.face_points.insert(out.face_points.end(), m.face_points.begin() + m.face_start[at(f)],
                           m.face_points.begin() + m.face_start[at(f) + 1]);
    out.face_start.push_back(static_cast<int>(out.face_points.size()));
    out.cell_below.push_back(number[at(m.cell_below[at(f)])]);
    if (f < m.interior_faces()) out.cell_above.push_back(number[at(m.cell_above[at(f)])]);
  }
  for (Boundary& p : out.boundaries) p.first -= dropped;
  out.derive();
  return out;
}

TEST(Partings, SeveralFacesOfTwoCellsCountAsOne) {
  const VolumeMesh mesh = with_corner_cell();
  SoloCommunicator solo;
  const std::vector<double> distance(at(mesh.cells), 1.0);
  const FlowMesh m = distribute(&mesh, &distance, solo);
  EXPECT_EQ(static_cast<int>(m.faces()), mesh.interior_faces() - 1);
  std::vector<std::pair<int, int>> pairs;
  for (std::size_t f = 0; f < m.faces(); ++f) pairs.emplace_back(m.below[f], m.above[f]);
  std::sort(pairs.begin(), pairs.end());
  EXPECT_EQ(std::adjacent_find(pairs.begin(), pairs.end()), pairs.end());
}

TEST(Partings, ALinearPressureStillPushesWithItsGradient) {
  const VolumeMesh mesh = with_corner_cell();
  const Vec3 g{3, -2, 0};
  const std::vector<BoundaryCondition> given(mesh.boundaries.size(), stream({1, 0, 0}));
  with_pressure(
      mesh, laminar(1, given), [&](const Vec3& x) { return dot(g, x); },
      [&](const FlowState& s) {
        for (int c = 0; c < mesh.cells; ++c)
          EXPECT_LT(norm(s.gauss_p[at(c)] - g), 1e-11) << "cell " << c;
      });
}

TEST(Gradients, ALimitedCellHasItsShareLess) {
  const VolumeMesh mesh = structured_mesh(4, 4, 4, [](const Vec3& a) { return a; });
  SoloCommunicator solo;
  const std::vector<double> distance(64, 1.0);
  const FlowMesh m = distribute(&mesh, &distance, solo);
  const std::vector<BoundaryCondition> c(6, stream({1, 0, 0}));
  Gradients gradients(m, c);
  gradients.limit({{21, 1}, {25, 0.25}});
  std::vector<double> p;
  for (const Vec3& x : m.centre) p.push_back(x.x);
  std::vector<Vec3> grad(p.size());
  gradients.of_pressure(p, grad);
  EXPECT_EQ(norm(grad[21]), 0);
  EXPECT_NEAR(grad[22].x, 1, 1e-12);
  EXPECT_NEAR(grad[25].x, 0.75, 1e-12);
  for (const double reach : gradients.reach())
    EXPECT_EQ(reach, 1) << "cubes carry all of their gradients";
}

/// A block with sharp edges above a rolling road, refined along them, with layers.
struct RefinedBlock {
  MeshResult m;
  FlowCase c;
  RefinedBlock() {
    MeshOptions o;
    o.surface_size = 0.08, o.largest_size = 0.64, o.smallest_size = 0.02, o.edge_size = 0.02,
    o.gap_cells = 3;
    o.layers.count = 2, o.layers.total_leaves = 0.5;
    o.half = true;
    m = build_mesh(rounded_box("block", Box{{-0.5, -0.3, 0.15}, {0.5, 0.3, 0.6}}, 0),
                   Box{{-2.5, 0, 0}, {4, 2, 2.5}}, o);
    c = road_case(m.mesh, 20);
  }
};

TEST(Robustness, TurbulenceStaysWithinReasonOnARefinedSurface) {
  const RefinedBlock b;
  const Solution s = solve(b.m.mesh, b.c, 80);
  const auto [least_k, most_k] = std::minmax_element(s.fields.k.begin(), s.fields.k.end());
  const auto [least_omega, most_omega] =
      std::minmax_element(s.fields.omega.begin(), s.fields.omega.end());
  EXPECT_GT(*least_k, 1e-10 * 400);
  EXPECT_LT(*most_k, 0.3 * 400);
  EXPECT_GT(*least_omega, 0.01);
  EXPECT_LT(*most_omega, 1e7);
  double fastest = 0;
  for (const Vec3& u : s.fields.u) fastest = std::max(fastest, norm(u));
  EXPECT_LT(fastest, 4 * 20.0);
  EXPECT_LT(s.residual, 0.1);
}

TEST(Robustness, SpalartAllmarasRunsOnTheSameMesh) {
  RefinedBlock b;
  b.c.options.turbulence = TurbulenceModel::spalart_allmaras;
  const Solution s = solve(b.m.mesh, b.c, 80);
  EXPECT_TRUE(s.fields.k.empty());
  ASSERT_EQ(s.fields.nu_tilde.size(), s.fields.u.size());
  const auto [least, most] =
      std::minmax_element(s.fields.nu_tilde.begin(), s.fields.nu_tilde.end());
  EXPECT_GT(*least, 0);
  EXPECT_LT(*most, 1.0) << "mixing lengths of a tenth of the body at the stream's speed";
  EXPECT_LT(s.residual, 0.1);
  const Solution other = solve(b.m.mesh, road_case(b.m.mesh, 20), 80);
  EXPECT_NEAR(s.cd_history.back() / other.cd_history.back(), 1, 0.25)
      << "the two models agree roughly";
}

TEST(Robustness, KEpsilonModelsRunOnTheSameMesh) {
  RefinedBlock b;
  const Solution other = solve(b.m.mesh, road_case(b.m.mesh, 20), 80);
  for (const TurbulenceModel model :
       {TurbulenceModel::k_epsilon, TurbulenceModel::realizable_k_epsilon}) {
    b.c.options.turbulence = model;
    const Solution s = solve(b.m.mesh, b.c, 80);
    const auto [least, most] = std::minmax_element(s.fields.k.begin(), s.fields.k.end());
    EXPECT_GT(*least, 0);
    EXPECT_LT(*most, 0.5 * 400);
    EXPECT_TRUE(s.fields.omega.empty()) << "omega never holds epsilon";
    EXPECT_GT(*std::min_element(s.fields.epsilon.begin(), s.fields.epsilon.end()), 0);
    EXPECT_LT(s.residual, 0.1);
    EXPECT_NEAR(s.cd_history.back() / other.cd_history.back(), 1, 0.25)
        << "the models agree roughly";
  }
}

TEST(Robustness, FacesOfALimitedCellAreDampedOnAnyNumberOfRanks) {
  const RefinedBlock b;
  const auto distance = wall_distances(b.m.mesh, std::vector<bool>(b.m.mesh.boundaries.size()));
  const int wild = b.m.mesh.cells / 2;  // where two ranks meet
  std::set<int> neighbours;
  for (int f = 0; f < b.m.mesh.interior_faces(); ++f) {
    const int below = b.m.mesh.cell_below[at(f)], above = b.m.mesh.cell_above[at(f)];
    if (below == wild || above == wild) neighbours.insert(below == wild ? above : below);
  }
  for (const int ranks : {1, 2}) {
    double damped = 0;
    run_on_threads(ranks, [&](Communicator& comm) {
      const bool root = comm.rank() == 0;
      const FlowMesh share =
          distribute(root ? &b.m.mesh : nullptr, root ? &distance : nullptr, comm);
      FlowSolver solver(share, b.c, comm);
      solver.start();
      SolverState state = solver.save();
      const int own = wild - share.first_global;
      const bool mine = own >= 0 && own < share.own;
      if (mine) state.limited = {own}, state.limited_share = {0.5};
      solver.restore(state);
      // A face between ranks is damped on both, and counts by halves.
      double faces = 0;
      for (const auto& [f, limited] : solver.state().limited_faces) {
        faces += share.below[at(f)] < share.own && share.above[at(f)] < share.own ? 1 : 0.5;
        if (limited != 0.5) faces = -1e9;
      }
      faces = comm.sum(faces);
      if (root) damped = faces;
    });
    EXPECT_EQ(damped, static_cast<double>(neighbours.size())) << ranks << " ranks";
  }
}

TEST(Robustness, ALimitedCellThatIsCalmIsRestored) {
  const VolumeMesh mesh = structured_mesh(8, 8, 1, [](const Vec3& a) { return a; });
  const FlowCase c = laminar(1e-3, {stream({1, 0, 0}), outflow(), slip(), slip(), slip(), slip()});
  SoloCommunicator solo;
  const std::vector<double> distance(64, 1.0);
  const FlowMesh m = distribute(&mesh, &distance, solo);
  FlowSolver solver(m, c, solo);
  solver.start();
  SolverState state = solver.save();
  state.limited = {20}, state.limited_share = {1};
  solver.restore(state);
  double before = 1;
  for (int i = 0; i < 120; ++i) {
    solver.iterate();
    const auto& cells = solver.state().gradients.limited_cells();
    const double now = cells.empty() ? 0 : cells.front().share;
    EXPECT_LT(before - now, 0.06) << "by steps that shake nothing";
    before = now;
  }
  EXPECT_TRUE(solver.state().gradients.limited_cells().empty());
  EXPECT_TRUE(solver.state().limited_faces.empty());
}

TEST(Robustness, ACellThatLosesItsOmegaWithoutEndKeepsATrace) {
  const VolumeMesh mesh = structured_mesh(8, 8, 1, [](const Vec3& a) { return a; });
  FlowCase c = laminar(1e-3, {stream({1, 0, 0}), outflow(), slip(), slip(), slip(), slip()});
  c.options.turbulence = TurbulenceModel::sst;
  const Vec3 drain{0.5625, 0.5625, 0.5};  // a cell's middle
  c.options.turbulence_source = [=](const Vec3& x) {
    return std::pair{0.0, norm(x - drain) < 0.01 ? -1e9 : 0.0};
  };
  const double stream = solve(mesh, c, 0, 0).fields.omega.front();
  const Solution s = solve(mesh, c, 400, 0);
  const double least = *std::min_element(s.fields.omega.begin(), s.fields.omega.end());
  EXPECT_LT(least, 1e-6 * stream) << "it is drained";
  EXPECT_GE(least, 0.99e-8 * stream);
  EXPECT_TRUE(std::isfinite(s.residual));
}

TEST(SavedState, GoesOnToTheSameBitsOnOneAndTwoRanks) {
  const RefinedBlock b;
  const auto distance = wall_distances(b.m.mesh, [&] {
    std::vector<bool> wall;
    for (const Boundary& p : b.m.mesh.boundaries)
      wall.push_back(p.kind == BoundaryKind::part || p.kind == BoundaryKind::road);
    return wall;
  }());
  for (const int ranks : {1, 2})
    run_on_threads(ranks, [&](Communicator& comm) {
      const bool root = comm.rank() == 0;
      const FlowMesh share =
          distribute(root ? &b.m.mesh : nullptr, root ? &distance : nullptr, comm);
      FlowSolver whole(share, b.c, comm), first(share, b.c, comm), second(share, b.c, comm);
      whole.start(), first.start();
      for (int i = 0; i < 8; ++i) whole.iterate();
      for (int i = 0; i < 3; ++i) first.iterate();
      second.restore(first.save());
      EXPECT_EQ(second.iteration(), 3);
      for (int i = 0; i < 5; ++i) second.iterate();
      for (int c = 0; c < share.own; ++c) {
        EXPECT_TRUE(whole.state().u[at(c)] == second.state().u[at(c)] &&
                    whole.state().p[at(c)] == second.state().p[at(c)] &&
                    whole.state().omega[at(c)] == second.state().omega[at(c)]);
        if (testing::Test::HasFailure()) return;
      }
    });
}

/// A lid slides over a square: what the local steps of pseudo-time go by.
class LocalSteps : public testing::Test {
 protected:
  LocalSteps() {
    std::vector<BoundaryCondition> conditions;
    for (const Boundary& b : mesh_.boundaries) {
      const Vec3 n = unit(mesh_.face_area[at(b.first)]);
      conditions.push_back(std::abs(n.z) > 0.5 ? slip() : n.y > 0.5 ? wall({1, 0, 0}) : wall());
    }
    case_ = laminar(0.01, conditions);
    case_.options.starting_courant = case_.options.courant;  // steps that do not grow
    const std::vector<double> distance(at(mesh_.cells), 1.0);
    share_ = distribute(&mesh_, &distance, solo_);
    FlowSolver solver(share_, case_, solo_);
    solver.start();
    for (int i = 0; i < 20; ++i) solver.iterate();
    begun_ = solver.save();
  }
  /// After one iteration that is the `number`th, from rates of `factor` times those of the flow.
  std::vector<double> rates_after(int number, double factor) {
    SolverState s = begun_;
    s.iteration = number - 1;
    for (double& r : s.step_rate) r *= factor;
    FlowSolver solver(share_, case_, solo_);
    solver.restore(s);
    solver.iterate();
    return solver.state().step_rate;
  }
  const VolumeMesh mesh_ = structured_mesh(8, 8, 1, [](const Vec3& a) {
    return Vec3{a.x, a.y, a.z / 8};
  });
  FlowCase case_;
  SoloCommunicator solo_;
  FlowMesh share_;
  SolverState begun_;
};

TEST_F(LocalSteps, GoByAFlowThatBeginsAndByTheMeanOfADevelopedOne) {
  EXPECT_EQ(rates_after(50, 3), rates_after(50, 1)) << "whatever they were";
  const auto present = rates_after(50, 1), low = rates_after(2000, 1), high = rates_after(2000, 3);
  for (std::size_t c = 0; c < present.size(); ++c) {
    // One part in 1899, of the iterations behind the first hundred, is new.
    constexpr double old = 1 - 1.0 / 1899;
    EXPECT_NEAR(low[c], present[c] + old * (begun_.step_rate[c] - present[c]), 1e-12);
    EXPECT_NEAR(high[c], present[c] + old * (3 * begun_.step_rate[c] - present[c]), 1e-12);
  }
}

TEST_F(LocalSteps, GoOnFromASavedStateToTheSameBits) {
  begun_.iteration = 1000;
  FlowSolver whole(share_, case_, solo_), first(share_, case_, solo_), second(share_, case_, solo_);
  whole.restore(begun_), first.restore(begun_);
  for (int i = 0; i < 6; ++i) whole.iterate();
  for (int i = 0; i < 3; ++i) first.iterate();
  second.restore(first.save());
  for (int i = 0; i < 3; ++i) second.iterate();
  for (std::size_t c = 0; c < at(mesh_.cells); ++c)
    EXPECT_TRUE(whole.state().u[c] == second.state().u[c]);
  EXPECT_EQ(whole.state().step_rate, second.state().step_rate);
}

}  // namespace
}  // namespace dunefield::test
