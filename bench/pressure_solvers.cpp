// Successive pressure systems of a layered van, solved by our multigrid and by general
// linear-algebra packages on the same ranks:
//   mpiexec -n 2 build/release/bin/pressure_solvers [--per-length 130] [--systems 20] [--after 30]
#include <cstdio>

#include <fmt/format.h>
#include <petscksp.h>
#include <CLI/CLI.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/base/memory.hpp>
#include <dunefield/linear/multigrid.hpp>
#include <dunefield/parallel/mpi_communicator.hpp>

#include "van_case.hpp"

namespace {

using namespace dunefield;

struct System {
  PressureMatrix matrix;
  std::vector<double> rhs;
};

struct Cost {
  double seconds = 0;  ///< set-up, refresh and solution of all systems
  /// Of these, ours: aggregates and the first hierarchy; refreshing it
  double first_setting = 0, later_setting = 0;
  double iterations = 0;  ///< mean
  double worst = 0;       ///< reduction really reached
};

Cost by_ours(const FlowMesh& mesh, const std::vector<System>& systems, double reduction,
             Communicator& comm) {
  Cost cost;
  Halo halo(comm, mesh.halo_plan);
  PressureSolver solver(mesh.graph, halo);
  std::vector<double> x(at(mesh.cells));
  for (const System& s : systems) {
    SolveReport report;
    const double setting = bench::timed(comm, [&] { solver.set_matrix(s.matrix); });
    cost.seconds += setting + bench::timed(comm, [&] {
                      report = solver.solve(s.rhs, x, reduction, 500, false);
                    });
    (&s == &systems.front() ? cost.first_setting : cost.later_setting) += setting;
    cost.iterations += report.iterations / static_cast<double>(systems.size());
    cost.worst = std::max(cost.worst, report.reduction);
  }
  return cost;
}

/// A way to precondition conjugate gradients in the package.
struct Yardstick {
  const char* name;
  PCType type;
  std::vector<std::pair<const char*, const char*>> options;
  bool keep;  ///< the preconditioner of the first system is kept for all
};

class Package {
 public:
  Package(const FlowMesh& mesh, Communicator& comm)
      : mesh_(mesh), comm_(comm), column_(at(mesh.cells)) {
    for (int c = 0; c < mesh.own; ++c) column_[at(c)] = mesh.first_global + c;
    Halo halo(comm, mesh.halo_plan);
    halo.refresh(column_);
    std::vector<PetscInt> own(at(mesh.own), 1), others(at(mesh.own), 0);
    for (int i = 0; i < mesh.graph.rows; ++i)
      for (int k = mesh.graph.start[at(i)]; k < mesh.graph.start[at(i) + 1]; ++k)
        ++(mesh.graph.column[at(k)] < mesh.own ? own : others)[at(i)];
    ok(MatCreateAIJ(PETSC_COMM_WORLD, mesh.own, mesh.own, PETSC_DETERMINE, PETSC_DETERMINE, 0,
                    own.data(), 0, others.data(), &matrix_));
    ok(MatCreateVecs(matrix_, &x_, &b_));
  }
  ~Package() { ok(MatDestroy(&matrix_)), ok(VecDestroy(&x_)), ok(VecDestroy(&b_)); }

  Cost solve(const Yardstick& y, const std::vector<System>& systems, double reduction) {
    for (const auto& [key, value] : y.options) ok(PetscOptionsSetValue(nullptr, key, value));
    KSP ksp;
    PC pc;
    ok(KSPCreate(PETSC_COMM_WORLD, &ksp));
    ok(KSPSetType(ksp, KSPCG)), ok(KSPSetNormType(ksp, KSP_NORM_UNPRECONDITIONED));
    ok(KSPSetTolerances(ksp, reduction, 0, PETSC_DEFAULT, 2000));
    ok(KSPGetPC(ksp, &pc)), ok(PCSetType(pc, y.type));
    ok(KSPSetFromOptions(ksp));
    ok(KSPSetReusePreconditioner(ksp, y.keep ? PETSC_TRUE : PETSC_FALSE));
    Cost cost;
    for (const System& s : systems) {
      fill(s);  // not counted
      PetscInt iterations = 0;
      cost.seconds += bench::timed(comm_, [&] {
        ok(KSPSetOperators(ksp, matrix_, matrix_));
        ok(KSPSolve(ksp, b_, x_));
      });
      ok(KSPGetIterationNumber(ksp, &iterations));
      PetscReal norm = 0, start = 0;
      ok(KSPGetResidualNorm(ksp, &norm)), ok(VecNorm(b_, NORM_2, &start));
      cost.iterations += static_cast<double>(iterations) / static_cast<double>(systems.size());
      cost.worst = std::max(cost.worst, norm / start);
    }
    ok(KSPDestroy(&ksp));
    for (const auto& [key, value] : y.options) ok(PetscOptionsClearValue(nullptr, key));
    return cost;
  }

 private:
  static void ok(PetscErrorCode code) { PetscCallAbort(PETSC_COMM_WORLD, code); }

  void fill(const System& s) {
    ok(MatZeroEntries(matrix_));
    std::vector<PetscInt> columns;
    std::vector<PetscScalar> values;
    for (int i = 0; i < mesh_.own; ++i) {
      const PetscInt row = mesh_.first_global + i;
      columns = {row}, values = {s.matrix.diagonal[at(i)]};
      for (int k = mesh_.graph.start[at(i)]; k < mesh_.graph.start[at(i) + 1]; ++k)
        columns.push_back(column_[at(mesh_.graph.column[at(k)])]),
            values.push_back(s.matrix.entry[at(k)]);
      ok(MatSetValues(matrix_, 1, &row, static_cast<PetscInt>(columns.size()), columns.data(),
                      values.data(), ADD_VALUES));
      ok(VecSetValue(b_, row, s.rhs[at(i)], INSERT_VALUES));
    }
    ok(MatAssemblyBegin(matrix_, MAT_FINAL_ASSEMBLY)),
        ok(MatAssemblyEnd(matrix_, MAT_FINAL_ASSEMBLY));
    ok(VecAssemblyBegin(b_)), ok(VecAssemblyEnd(b_));
  }

  const FlowMesh& mesh_;
  Communicator& comm_;
  std::vector<PetscInt> column_;
  Mat matrix_ = nullptr;
  Vec x_ = nullptr, b_ = nullptr;
};

const std::vector<Yardstick> yardsticks = {
    {"smoothed aggregation (ML), set up each time", PCML, {}, false},
    {"smoothed aggregation (ML), kept as it is", PCML, {}, true},
    {"hypre, BoomerAMG, set up each time",
     PCHYPRE,
     {{"-pc_hypre_boomeramg_strong_threshold", "0.5"},
      {"-pc_hypre_boomeramg_agg_nl", "1"},
      {"-pc_hypre_boomeramg_relax_type_all", "symmetric-SOR/Jacobi"}},
     false},
    {"hypre, BoomerAMG, kept as it is",
     PCHYPRE,
     {{"-pc_hypre_boomeramg_strong_threshold", "0.5"},
      {"-pc_hypre_boomeramg_agg_nl", "1"},
      {"-pc_hypre_boomeramg_relax_type_all", "symmetric-SOR/Jacobi"}},
     true},
    {"PETSc, incomplete Cholesky by rank", PCBJACOBI, {{"-sub_pc_type", "icc"}}, false},
};

void compare(Communicator& comm, double per_length, int count, int after, bool only_ours) {
  const bool root = comm.rank() == 0;
  MeshResult mesh;
  std::vector<double> distance;
  if (root) mesh = bench::van_mesh(per_length), distance = bench::van_wall_distances(mesh.mesh);
  const FlowMesh share = distribute(root ? &mesh.mesh : nullptr, root ? &distance : nullptr, comm);
  const FlowCase flow = bench::van_case(share);
  FlowSolver solver(share, flow, comm);
  solver.start();
  std::vector<System> systems;
  for (int i = 0; i < after + count; ++i) {
    solver.iterate();
    if (i >= after)
      systems.push_back({solver.continuity().matrix(), solver.continuity().right_hand_side()});
  }
  if (root)
    fmt::print(
        "{} cells, {} systems of iterations {} to {}, {} ranks; seconds of all systems, set-up and "
        "refresh counted\n",
        mesh.quality.cells, count, after + 1, after + count, comm.size());
  Package package(share, comm);
  for (const double reduction : {1e-1, 1e-2, 1e-8}) {
    const auto print = [&](const char* name, const Cost& c, double ours) {
      if (root)
        fmt::print(
            "  {:.0e}  {:38} {:8.2f} s  {:5.2f} of ours  {:6.1f} iterations  reached {:.1e}\n",
            reduction, name, c.seconds, c.seconds / ours, c.iterations, c.worst);
      std::fflush(stdout);
    };
    const Cost ours = by_ours(share, systems, reduction, comm);
    print("ours", ours, ours.seconds);
    if (root)
      fmt::print("         of which setting up {:.2f} s, refreshing {:.2f} s\n", ours.first_setting,
                 ours.later_setting);
    if (only_ours) continue;
    for (const Yardstick& y : yardsticks)
      print(y.name, package.solve(y, systems, reduction), ours.seconds);
  }
}

}  // namespace

int main(int count, char** words) {
  keep_freed_memory();
  double per_length = 130;
  int systems = 20, after = 30;
  CLI::App app{"Our pressure solver beside general packages"};
  app.add_option("--per-length", per_length, "surface leaves along the van");
  app.add_option("--systems", systems, "successive systems")->check(CLI::PositiveNumber);
  app.add_option("--after", after, "iterations of the flow before the first")
      ->check(CLI::NonNegativeNumber);
  bool only_ours = false;
  app.add_flag("--only-ours", only_ours, "leave the packages out");
  CLI11_PARSE(app, count, words);
  MpiSession session(&count, &words);
  PetscCallAbort(MPI_COMM_WORLD, PetscInitialize(nullptr, nullptr, nullptr, nullptr));
  compare(session.world(), per_length, systems, after, only_ours);
  PetscCallAbort(MPI_COMM_WORLD, PetscFinalize());
}
