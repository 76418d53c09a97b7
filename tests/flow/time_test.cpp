// Flow in time: the order of its steps, and going on from a saved state.
#include <gtest/gtest.h>

#include <numbers>

#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

using std::numbers::pi;

/// Decaying vortices (Taylor and Green 1937) in a square of slip walls.
struct Vortices {
  static constexpr int n = 24;
  static constexpr double nu = 0.05;
  VolumeMesh mesh = structured_mesh(n, n, 1, [](const Vec3& a) {
    return Vec3{pi * a.x, pi * a.y, pi / n * a.z};
  });
  FlowCase flow;
  std::vector<double> distance = wall_distances(mesh, std::vector<bool>(6, false));
  SoloCommunicator comm;
  FlowMesh share;

  Vortices() : share(distribute(&mesh, &distance, comm)) {
    flow = laminar(nu, {slip(), slip(), slip(), slip(), slip(), slip()});
    flow.options.courant = 100, flow.options.pressure_reduction = 1e-3;
  }

  static Vec3 exact(const Vec3& x, double time) {
    const double decay = std::exp(-2 * nu * time);
    return {decay * std::sin(x.x) * std::cos(x.y), -decay * std::cos(x.x) * std::sin(x.y), 0};
  }

  static double pressure(const Vec3& x) { return 0.25 * (std::cos(2 * x.x) + std::cos(2 * x.y)); }

  /// Steps from the exact start until `end`, each brought to `residual`.
  void run(FlowSolver& solver, double step, double end, double residual = 1e-9) const {
    Fields start;
    for (int c = 0; c < share.own; ++c)
      start.u.push_back(exact(share.centre[static_cast<std::size_t>(c)], 0)),
          start.p.push_back(pressure(share.centre[static_cast<std::size_t>(c)]));
    solver.start_from(start);
    solver.begin_time(step);
    for (int i = 0; i < static_cast<int>(std::lround(end / step)); ++i) next(solver, residual);
  }
  static void next(FlowSolver& solver, double residual = 1e-9) {
    solver.next_moment();
    for (int k = 0; k < 60; ++k)
      if (solver.iterate().momentum_residual < residual) break;
  }
};

double difference(const std::vector<Vec3>& a, const std::vector<Vec3>& b) {
  double sum = 0;
  for (std::size_t i = 0; i < a.size(); ++i) sum += norm2(a[i] - b[i]);
  return std::sqrt(sum / static_cast<double>(a.size()));
}

TEST(Time, StepsAreOfSecondOrder) {
  const Vortices v;
  constexpr double end = 2;
  const auto at_end = [&](double step) {
    FlowSolver solver(v.share, v.flow, *const_cast<SoloCommunicator*>(&v.comm));
    v.run(solver, step, end);
    return solver.state().u;
  };
  // Against steps so short that only the space's error is left, which is the same in all.
  const auto fine = at_end(end / 320), a = at_end(end / 20), b = at_end(end / 40);
  const double order = std::log2(difference(a, fine) / difference(b, fine));
  EXPECT_GT(order, 1.8) << difference(a, fine) << " " << difference(b, fine);
  EXPECT_LT(order, 2.4);
}

TEST(Time, VorticesDecayAsTheirViscositySays) {
  Vortices v;
  FlowSolver solver(v.share, v.flow, v.comm);
  v.run(solver, 0.05, 2);
  double now = 0, exact = 0;
  for (int c = 0; c < v.share.own; ++c) {
    const auto i = static_cast<std::size_t>(c);
    now += norm2(solver.state().u[i]);
    exact += norm2(Vortices::exact(v.share.centre[i], 2));
  }
  EXPECT_NEAR(now / exact, 1, 0.02) << "energy";
}

TEST(Time, GoesOnFromASavedStateBitForBit) {
  Vortices v;
  FlowSolver solver(v.share, v.flow, v.comm);
  v.run(solver, 0.1, 0.3);
  const SolverState saved = solver.save();
  Vortices::next(solver), Vortices::next(solver);
  FlowSolver other(v.share, v.flow, v.comm);
  other.restore(saved);
  Vortices::next(other), Vortices::next(other);
  EXPECT_EQ(solver.state().u, other.state().u);
  EXPECT_EQ(solver.state().p, other.state().p);
}

TEST(Time, ASteadyFlowStaysAsItIs) {
  // Plane Couette flow, found in steady iterations, does not know whether time goes on.
  const VolumeMesh mesh = structured_mesh(4, 8, 2, [](const Vec3& a) { return a; });
  const FlowCase flow = laminar(0.1, {slip(), slip(), wall(), wall({1, 0, 0}), slip(), slip()});
  std::vector<bool> walls = {false, false, true, true, false, false};
  const std::vector<double> distance = wall_distances(mesh, walls);
  SoloCommunicator comm;
  const FlowMesh share = distribute(&mesh, &distance, comm);
  FlowSolver solver(share, flow, comm);
  solver.start();
  for (int i = 0; i < 300; ++i) solver.iterate();
  const auto before = solver.state().u;
  solver.begin_time(0.05);
  for (int i = 0; i < 5; ++i) Vortices::next(solver);
  EXPECT_LT(difference(before, solver.state().u), 1e-6);
}

}  // namespace
}  // namespace dunefield::test
