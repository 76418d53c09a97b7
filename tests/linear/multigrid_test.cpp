#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/linear/multigrid.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

/// Solves the Laplacian of a graded mesh on some ranks; iterations and the true residual's fall.
struct Result {
  int iterations = 0;
  double fall = 1;
};

Result solve_laplace(const VolumeMesh& mesh, int ranks, double reduction, bool singular) {
  Result result;
  const std::vector<double> distance(static_cast<std::size_t>(mesh.cells), 1.0);
  run_on_threads(ranks, [&](Communicator& comm) {
    const FlowMesh m = distribute(comm.rank() == 0 ? &mesh : nullptr, &distance, comm);
    Halo halo(comm, m.halo_plan);
    PressureMatrix matrix;
    matrix.resize(m.graph);
    for (std::size_t f = 0; f < m.faces(); ++f) {
      matrix.entry[at(m.slots.of_below[f])] = matrix.entry[at(m.slots.of_above[f])] = -m.g[f];
      for (const int c : {m.below[f], m.above[f]})
        if (c < m.own) matrix.diagonal[at(c)] += m.g[f];
    }
    if (!singular)
      for (const auto& b : m.boundary_faces) matrix.diagonal[at(b.cell)] += b.size / b.height;
    std::vector<double> rhs, x;
    for (int c = 0; c < m.own; ++c)
      rhs.push_back(m.volume[at(c)] * std::sin(7.0 * m.centre[at(c)].x));
    if (singular) {
      double sum = 0;
      for (const double r : rhs) sum += r;
      sum = comm.sum(sum) / mesh.cells;
      for (double& r : rhs) r -= sum;
    }
    PressureSolver solver(m.graph, halo);
    solver.set_matrix(matrix);
    const SolveReport report = solver.solve(rhs, x, reduction, 200, singular);
    double sums[2] = {0, 0};
    for (int c = 0; c < m.own; ++c) {
      const auto i = static_cast<std::size_t>(c);
      double r = rhs[i] - matrix.diagonal[i] * x[i];
      for (int k = m.graph.start[i]; k < m.graph.start[i + 1]; ++k)
        r -= matrix.entry[at(k)] * x[at(m.graph.column[at(k)])];
      sums[0] += r * r, sums[1] += rhs[i] * rhs[i];
    }
    comm.sum(sums);
    if (comm.rank() == 0) result = {report.iterations, std::sqrt(sums[0] / sums[1])};
  });
  return result;
}

TEST(PressureSolver, IsAsGoodOnFourRanksAsOnOne) {
  const VolumeMesh mesh =
      build_mesh(Surface{}, Box{{0, 0, 0}, {4, 2, 2}},
                 [] {
                   MeshOptions o;
                   o.surface_size = 0.06, o.largest_size = 0.24;
                   o.boxes.push_back({"middle", Box{{1, 0.5, 0}, {2, 1, 1}}, 0.06});
                   return o;
                 }())
          .mesh;
  const Result one = solve_laplace(mesh, 1, 1e-8, false);
  EXPECT_LT(one.fall, 2e-8);
  EXPECT_LE(one.iterations, 40);
  for (const int ranks : {2, 4}) {
    const Result several = solve_laplace(mesh, ranks, 1e-8, false);
    EXPECT_LT(several.fall, 2e-8);
    EXPECT_LE(several.iterations, one.iterations + 8) << ranks << " ranks";
  }
}

TEST(PressureSolver, SolvesTheSingularProblemOfAClosedBox) {
  const VolumeMesh mesh = structured_mesh(32, 32, 8, [](const Vec3& a) { return a; });
  for (const int ranks : {1, 2}) EXPECT_LT(solve_laplace(mesh, ranks, 1e-8, true).fall, 1e-7);
}

}  // namespace
}  // namespace dunefield::test
