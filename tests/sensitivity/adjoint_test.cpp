// The transposed equations against differences of the equations, and gradients by the adjoint
// against differences of converged flows.
#include <gtest/gtest.h>

#include <numbers>
#include <random>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/sensitivity/bumps.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

using std::numbers::pi;

FlowVector random_vector(std::size_t cells, unsigned seed, double of_u, double of_p) {
  std::mt19937 random(seed);
  std::normal_distribution<double> normal;
  FlowVector v(cells);
  for (std::size_t c = 0; c < cells; ++c) {
    v.u[c] = Vec3{normal(random), normal(random), normal(random)} * of_u;
    v.p[c] = normal(random) * of_p;
  }
  return v;
}

/// A flow on one rank, iterated for a while, and its equations with turbulence frozen.
struct Frozen {
  Frozen(const VolumeMesh& mesh, const FlowCase& c, int iterations)
      : distance(wall_distances(mesh, c.conditions)), share(distribute(&mesh, &distance, solo)) {
    FlowSolver solver(share, c, solo);
    solver.start();
    for (int i = 0; i < iterations; ++i) solver.iterate();
    solver.close_mass();
    fields = solver.gather();
    flow = std::make_unique<FrozenFlow>(share, c, solo, fields);
  }
  SoloCommunicator solo;
  std::vector<double> distance;
  FlowMesh share;
  Fields fields;
  std::unique_ptr<FrozenFlow> flow;
};

/// lambda J d from both sides, relative.
double mismatch(FrozenFlow& flow) {
  const std::size_t n = at(flow.state().mesh.own);
  const FlowVector here = flow.point(), lambda = random_vector(n, 1, 1, 1),
                   d = random_vector(n, 2, 1e-2, 1e-1);
  const auto moved = [&](double by) {
    FlowVector there = here;
    add(there, by, d);
    return dot(lambda, flow.residual(there));
  };
  constexpr double step = 1e-4;
  const double differences = (moved(step) - moved(-step)) / (2 * step);
  flow.residual(here);
  const TransposedFlow transposed(flow);
  return dot(transposed.times(lambda), d) / differences - 1;
}

double load_mismatch(FrozenFlow& flow, const WallWeight& weight) {
  const std::size_t n = at(flow.state().mesh.own);
  const FlowVector here = flow.point(), d = random_vector(n, 3, 1e-2, 1e-1);
  const auto moved = [&](double by) {
    FlowVector there = here;
    add(there, by, d);
    flow.residual(there);
    return weighted_load(flow.state(), weight);
  };
  constexpr double step = 1e-4;
  const double differences = (moved(step) - moved(-step)) / (2 * step);
  flow.residual(here);
  const TransposedFlow transposed(flow);
  return dot(transposed.load_gradient(weight), d) / differences - 1;
}

MeshResult body_mesh(int layers) {
  MeshOptions o;
  o.surface_size = 0.08, o.largest_size = 0.4, o.layers.count = layers, o.half = true;
  return build_mesh(rounded_box("body", Box{{-0.5, -0.2, 0.1}, {0.5, 0.2, 0.5}}, 0.1),
                    Box{{-1.5, 0, 0}, {2.5, 1.2, 1.6}}, o);
}

TEST(TransposedFlow, IsTheTransposeOfTheEquations) {
  for (const int layers : {0, 4}) {
    const MeshResult mesh = body_mesh(layers);
    for (const TurbulenceModel model : {TurbulenceModel::laminar, TurbulenceModel::sst}) {
      FlowCase c = road_case(mesh.mesh, 20);
      c.options.turbulence = model;
      if (model == TurbulenceModel::laminar) c.air.kinematic_viscosity = 0.05;
      Frozen f(mesh.mesh, c, 40);
      EXPECT_LT(std::abs(mismatch(*f.flow)), 1e-5) << layers << " " << static_cast<int>(model);
      EXPECT_LT(std::abs(load_mismatch(*f.flow, {{1, 0, 0}, {}})), 1e-6) << layers;
      EXPECT_LT(std::abs(load_mismatch(*f.flow, {{0, 0, 0.5}, {0, 1, 0}})), 1e-6) << layers;
    }
  }
}

/// A ring of cells around an ellipse of half axes 0.5 (1 + longer) and 0.5, the outer border fixed.
VolumeMesh ring(double longer) {
  constexpr int around = 64, across = 40;
  return structured_mesh(
      around, across, 1,
      [=](const Vec3& a) {
        const double angle = -2 * pi * (a.x - 0.25), r = 0.5 * std::pow(60, a.y),
                     share = 1 + longer * std::pow(1 - a.y, 2);
        return Vec3{r * std::cos(angle) * share, -a.z, r * std::sin(angle)};
      },
      true);
}

/// Boundaries: cylinder, outflow (the half downstream), inflow, two sides.
VolumeMesh flow_ring(double longer) {
  VolumeMesh m = ring(longer);
  Boundary& outer = m.boundaries[1];
  Boundary inflow{"inflow", BoundaryKind::inflow, outer.first + outer.count / 2, outer.count / 2};
  outer.count /= 2, outer.kind = BoundaryKind::outflow;
  m.boundaries[0].kind = BoundaryKind::part;
  m.boundaries.insert(m.boundaries.begin() + 2, inflow);
  for (std::size_t i = 3; i < m.boundaries.size(); ++i) m.boundaries[i].kind = BoundaryKind::side;
  return m;
}

FlowCase cylinder_case() {
  FlowCase c = laminar(1.0 / 20, {wall(), outflow(), stream({1, 0, 0}), slip(), slip()});
  c.reference_speed = 1, c.initial_velocity = {1, 0, 0};
  return c;
}

TEST(Adjoint, GivesTheGradientOfALaminarCylindersForces) {
  const FlowCase c = cylinder_case();
  const WallWeight drag{{1, 0, 0}, {}};
  const auto force = [&](double longer) {
    const VolumeMesh mesh = flow_ring(longer);
    Frozen f(mesh, c, 3000);
    f.flow->residual();
    return weighted_load(f.flow->state(), drag);
  };
  constexpr double step = 0.01;
  const double differences = (force(step) - force(-step)) / (2 * step);
  const VolumeMesh mesh = flow_ring(0);
  Frozen f(mesh, c, 3000);
  f.flow->residual();
  const TransposedFlow transposed(*f.flow);
  const std::vector<Adjoint> adjoints =
      solve_adjoint(*f.flow, transposed, transposed.load_gradient(drag), {}, {});
  ASSERT_EQ(adjoints.size(), 1u);
  EXPECT_EQ(adjoints[0].damping_courant, 0);
  RecordProperty("iterations", adjoints[0].iterations);
  std::vector<Vec3> way(mesh.points.size());
  const VolumeMesh longer = flow_ring(1);
  for (std::size_t i = 0; i < way.size(); ++i) way[i] = longer.points[i] - mesh.points[i];
  const AdjointFlow adjoint{mesh, c, f.fields, f.distance, drag, adjoints};
  const double gradient = displacement_gradient(adjoint, way)[0];
  RecordProperty("gradient", std::to_string(gradient));
  RecordProperty("differences", std::to_string(differences));
  EXPECT_NEAR(gradient / differences, 1, 0.01);

  // Bumps that are put on together are told apart.
  constexpr double radius = 0.15;
  const std::vector<Bump> bumps = bump_gradients(adjoint, radius, {});
  EXPECT_GE(bumps.size(), 16u);
  double most = 0, differ = 0;
  for (const Bump& b : bumps) {
    const double alone = displacement_gradient(adjoint, bump_displacement(adjoint, b, radius))[0];
    most = std::max(most, std::abs(alone));
    differ = std::max(differ, std::abs(b.density[0] * b.area - alone));
  }
  EXPECT_GT(most, 0);
  EXPECT_LT(differ, 0.02 * most);
}

}  // namespace
}  // namespace dunefield::test
