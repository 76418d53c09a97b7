// The pieces of the discretization: shares of the mesh, gradients, exactness on linear fields.
#include <gtest/gtest.h>

#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/carried_velocity.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

const VolumeMesh& graded() {
  static const VolumeMesh m = [] {
    MeshOptions o;
    o.surface_size = 0.1, o.largest_size = 0.4;
    o.boxes.push_back({"middle", Box{{-0.5, -0.5, 0.2}, {0.5, 0.5, 0.9}}, 0.1});
    return build_mesh(sphere("ball", {0, 0, 0.6}, 0.3, 32), Box{{-2, -1, 0}, {2, 1, 2}}, o).mesh;
  }();
  return m;
}

std::vector<BoundaryCondition> conditions(BoundaryCondition tunnel, BoundaryCondition ball) {
  std::vector<BoundaryCondition> c;
  for (const Boundary& p : graded().boundaries)
    c.push_back(p.kind == BoundaryKind::part ? ball : tunnel);
  return c;
}

class Shares : public testing::TestWithParam<int> {};

TEST_P(Shares, HoldEachCellAndFaceOnce) {
  const std::vector<double> distance(at(graded().cells), 1.0);
  run_on_threads(GetParam(), [&](Communicator& comm) {
    const FlowMesh m = distribute(comm.rank() == 0 ? &graded() : nullptr, &distance, comm);
    const double volume = std::accumulate(m.volume.begin(), m.volume.begin() + m.own, 0.0);
    EXPECT_NEAR(comm.sum(volume) / air_volume(graded()), 1, 1e-12);
    EXPECT_EQ(comm.sum(double(m.boundary_faces.size())),
              graded().faces() - graded().interior_faces());
    double faces = 0;
    for (std::size_t f = 0; f < m.faces(); ++f)
      faces += (m.below[f] < m.own && m.above[f] < m.own) ? 1 : 0.5;
    EXPECT_EQ(comm.sum(faces), graded().interior_faces());
    EXPECT_EQ(m.boundaries.size(), graded().boundaries.size());
  });
}

TEST_P(Shares, HaloHoldsTheNeighboursValues) {
  const std::vector<double> distance(at(graded().cells), 1.0);
  run_on_threads(GetParam(), [&](Communicator& comm) {
    const FlowMesh m = distribute(comm.rank() == 0 ? &graded() : nullptr, &distance, comm);
    std::vector<Vec3> place(m.centre.begin(), m.centre.begin() + m.own);
    place.resize(at(m.cells));
    Halo halo(comm, m.halo_plan);
    halo.refresh(place);
    EXPECT_EQ(place, m.centre);
  });
}

TEST_P(Shares, FieldsComeBackAsTheyWere) {
  const std::vector<double> distance(at(graded().cells), 1.0);
  run_on_threads(GetParam(), [&](Communicator& comm) {
    const FlowMesh m = distribute(comm.rank() == 0 ? &graded() : nullptr, &distance, comm);
    const auto mine =
        scatter_cells(m, comm.rank() == 0 ? graded().cell_centre : std::vector<Vec3>{}, comm);
    EXPECT_TRUE(std::equal(mine.begin(), mine.begin() + m.own, m.centre.begin()));
    const auto all = gather_cells(m, mine, comm);
    EXPECT_EQ(all, comm.rank() == 0 ? graded().cell_centre : std::vector<Vec3>{});
  });
}

INSTANTIATE_TEST_SUITE_P(OneTwoFour, Shares, testing::Values(1, 2, 4));

TEST(Shares, MoreRanksThanCellsAreRefused) {
  const VolumeMesh two = structured_mesh(2, 1, 1, [](const Vec3& a) { return a; });
  const std::vector<double> distance(2, 1.0);
  EXPECT_ANY_THROW(run_on_threads(4, [&](Communicator& comm) {
    distribute(comm.rank() == 0 ? &two : nullptr, &distance, comm);
  }));
}

TEST(Gradients, AreExactForLinearFields) {
  SoloCommunicator solo;
  const std::vector<double> distance(at(graded().cells), 1.0);
  const FlowMesh m = distribute(&graded(), &distance, solo);
  const auto given = stream({1, 0, 0});
  const auto c = conditions(given, wall());
  const Gradients gradients(m, c);
  const Mat3 g{{{1, 2, 3}, {-1, 0.5, 2}, {0.3, -0.7, -1.5}}};
  std::vector<Vec3> u, boundary;
  std::vector<double> p;
  for (const Vec3& x : m.centre) u.push_back(g * x), p.push_back(dot(g.row[1], x));
  for (const auto& b : m.boundary_faces) boundary.push_back(g * b.centre);
  const std::vector<double> whole_slope(m.boundary_faces.size(), 1.0);
  std::vector<Mat3> grad_u(u.size());
  std::vector<Vec3> grad_p(u.size()), grad_k(u.size());
  gradients.of_velocity(u, boundary, whole_slope, grad_u);
  gradients.of_pressure(p, grad_p);
  gradients.of_scalars<1>({&p}, {&grad_k});
  for (int i = 0; i < m.own; ++i) {
    for (int k = 0; k < 3; ++k) EXPECT_LT(norm(grad_u[at(i)].row[k] - g.row[k]), 1e-10);
    EXPECT_LT(norm(grad_p[at(i)] - g.row[1]), 1e-10);
    EXPECT_LT(norm(grad_k[at(i)] - g.row[1]), 1e-10);
  }
}

TEST(CarriedVelocity, IsExactForMeansOfAParabolaAlongEvenCells) {
  constexpr int n = 6;
  const VolumeMesh mesh = structured_mesh(n, 1, 1, [](const Vec3& a) { return a; });
  SoloCommunicator solo;
  const std::vector<double> distance(n, 1.0);
  const FlowMesh m = distribute(&mesh, &distance, solo);
  const std::vector<BoundaryCondition> c(6, slip());
  const Gradients gradients(m, c);
  const auto y = [](double x) { return 3 + 2 * x - 5 * x * x; };
  constexpr double h = 1.0 / n;
  std::vector<Vec3> u;  // along the planes, so that they do not mirror it
  for (const Vec3& x : m.centre) u.push_back({0, y(x.x) - 5 * h * h / 12, 0});
  std::vector<Mat3> grad(u.size());
  gradients.of_velocity(u, std::vector<Vec3>(m.boundary_faces.size()),
                        std::vector<double>(m.boundary_faces.size(), 1.0), grad);
  const std::vector<double> reach(u.size(), 1.0), none(u.size(), 0.0);
  int looked_at = 0;
  for (std::size_t f = 0; f < m.faces(); ++f)
    for (const bool upward : {true, false}) {
      const auto up = at(upward ? m.below[f] : m.above[f]);
      if (m.centre[up].x < 1.1 * h || m.centre[up].x > 1 - 1.1 * h) continue;
      const double x = 0.5 * (m.centre[at(m.below[f])].x + m.centre[at(m.above[f])].x);
      EXPECT_NEAR(carried_velocity(m, f, upward, u, grad, reach).y, y(x), 1e-12);
      EXPECT_EQ(carried_velocity(m, f, upward, u, grad, none), u[up]) << "first order";
      ++looked_at;
    }
  EXPECT_EQ(looked_at, 2 * (n - 2));
}

TEST(Gradients, MirrorVelocitiesAtSlipPlanes) {
  const VolumeMesh mesh = structured_mesh(4, 4, 4, [](const Vec3& a) { return a; });
  SoloCommunicator solo;
  const std::vector<double> distance(64, 1.0);
  const FlowMesh m = distribute(&mesh, &distance, solo);
  const std::vector<BoundaryCondition> c(6, slip());
  const Gradients gradients(m, c);
  // A velocity normal to the lower x plane that vanishes there; a tangential one that is even about
  // it.
  std::vector<Vec3> u;
  for (const Vec3& x : m.centre) u.push_back({std::sin(M_PI * x.x), std::cos(M_PI * x.x), 0});
  std::vector<Mat3> grad(u.size());
  gradients.of_velocity(u, std::vector<Vec3>(m.boundary_faces.size()),
                        std::vector<double>(m.boundary_faces.size(), 1.0), grad);
  const double h = 0.25, x = 0.125;
  EXPECT_NEAR(grad[0].row[0].x, (std::sin(M_PI * (x + h)) - std::sin(M_PI * (x - h))) / (2 * h),
              1e-12);
  EXPECT_NEAR(grad[0].row[1].x, (std::cos(M_PI * (x + h)) - std::cos(M_PI * (x - h))) / (2 * h),
              1e-12);
}

TEST(VolumeMesh, LinearFunctionsAreIntegratedExactlyOverWarpedFaces) {
  const VolumeMesh mesh = structured_mesh(1, 1, 1, [](const Vec3& a) {
    return Vec3{a.x + 0.3 * a.y * a.z, a.y - 0.2 * a.x * a.z, a.z + 0.1 * a.x * a.y};
  });
  // Integral of (g . x) dS over the closed surface is g times the volume.
  const Vec3 g{1, 2, 3};
  Vec3 sum;
  for (int f = 0; f < mesh.faces(); ++f)
    sum += mesh.face_area[at(f)] * dot(g, mesh.face_centre[at(f)]) + mesh.face_warp(f) * g;
  EXPECT_LT(norm(sum - g * mesh.cell_volume[0]), 1e-14);
}

TEST(WallDistance, CountsOnlyWalls) {
  const VolumeMesh mesh = structured_mesh(2, 4, 2, [](const Vec3& a) { return a; });
  const auto d = wall_distances(mesh, {false, false, true, false, false, false});
  for (int c = 0; c < mesh.cells; ++c) EXPECT_NEAR(d[at(c)], mesh.cell_centre[at(c)].y, 1e-6);
  EXPECT_GT(wall_distances(mesh, std::vector<bool>(6, false))[0], 1e5);
}

TEST(FlowSolver, ContradictingConditionsAreRefused) {
  const VolumeMesh mesh = structured_mesh(3, 3, 3, [](const Vec3& a) { return a; });
  const auto refused = [&](FlowCase c) { EXPECT_ANY_THROW(solve(mesh, c, 1, 0, 1)); };
  refused(laminar(0.1, {slip(), slip()}));
  refused(laminar(0.1, {stream({1, 0, 0}), slip(), slip(), slip(), slip(), slip()}));
  refused(laminar(-0.1, {stream({1, 0, 0}), outflow(), slip(), slip(), slip(), slip()}));
}

}  // namespace
}  // namespace dunefield::test
