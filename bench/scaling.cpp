// What ranks gain over one, as threads or as MPI processes, beside what the machine's copy
// bandwidth gains in the same run:
//   build/release/bin/scaling [--ranks 2] [--per-length 245] [--weak]
//   mpiexec -n 2 build/release/bin/scaling
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <optional>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include <dunefield/base/memory.hpp>
#ifdef DUNEFIELD_MPI
#include <dunefield/parallel/mpi_communicator.hpp>
#endif

#include "van_case.hpp"

namespace {

using namespace dunefield;

struct Options {
  double per_length = 245;
  int samples = 12;
  bool weak = false;
};

constexpr int iterations_of_sample = 4;  // turbulence comes in every second one

/// What some ranks achieve together, in the least disturbed of the samples.
struct Throughput {
  int ranks = 1, cells = 0;
  double bandwidth = 0;            ///< bytes read and written by copying, 1/s
  double iteration = 0;            ///< s
  double pressure_iterations = 0;  ///< mean
  double work() const { return cells / iteration; }
};

double copy_bandwidth(Communicator& comm) {
  constexpr std::size_t all = std::size_t{1} << 31;
  constexpr int times = 6;
  const std::size_t size = all / static_cast<std::size_t>(comm.size());
  std::vector<char> from(size, 1), to(size, 2);
  double best = 1e300;
  for (int i = 0; i < times; ++i)
    best = std::min(best, bench::timed(comm, [&] {
                      std::memcpy(i % 2 ? from.data() : to.data(), i % 2 ? to.data() : from.data(),
                                  size);
                    }));
  return 2.0 * static_cast<double>(all) / best;
}

/// @param mesh  null but on the root
Throughput measure(const VolumeMesh* mesh, int samples, Communicator& comm) {
  Throughput t{comm.size()};
  t.bandwidth = copy_bandwidth(comm);
  std::vector<double> distance;
  if (mesh) distance = bench::van_wall_distances(*mesh);
  const FlowMesh share = distribute(mesh, mesh ? &distance : nullptr, comm);
  const FlowCase flow = bench::van_case(share);
  FlowSolver solver(share, flow, comm);
  bench::begin(solver);
  t.iteration = 1e300;
  for (int n = 0; n < samples; ++n)
    t.iteration = std::min(t.iteration, bench::timed(comm, [&] {
                                          for (int i = 0; i < iterations_of_sample; ++i)
                                            t.pressure_iterations +=
                                                1.0 * solver.iterate().pressure_iterations /
                                                (samples * iterations_of_sample);
                                        }) / iterations_of_sample);
  t.cells = static_cast<int>(comm.sum(static_cast<double>(share.own)));
  return t;
}

void print(const char* kind, const Throughput& t, const Throughput& one) {
  fmt::print(
      "{:7} {:3} ranks: {:8} cells, copy {:5.2f} GB/s, {:.3f} us of a rank for a cell and "
      "iteration, {:.1f} iterations for pressure",
      kind, t.ranks, t.cells, t.bandwidth / 1e9, 1e6 * t.ranks / t.work(), t.pressure_iterations);
  if (t.ranks > 1)
    fmt::print("; {:.2f} times the work of one rank, {:.2f} times its bandwidth: {:.3f} of that",
               t.work() / one.work(), t.bandwidth / one.bandwidth,
               t.work() / one.work() / (t.bandwidth / one.bandwidth));
  fmt::print("\n");
  std::fflush(stdout);
}

void run(const Options& o, const Ranks& ranks) {
  const char* kind = ranks.processes ? "MPI" : "threads";
  const bool root = ranks.is_root();
  Throughput one;
  std::optional<MeshResult> mesh;
  if (root) {
    mesh = bench::van_mesh(o.weak ? o.per_length / std::cbrt(ranks.count()) : o.per_length);
    SoloCommunicator alone;
    one = measure(&mesh->mesh, o.samples, alone);
    print(kind, one, one);
    if (o.weak) mesh = bench::van_mesh(o.per_length);
  }
  ranks.run([&](Communicator& comm) {
    const bool first = comm.rank() == 0;
    const Throughput all = measure(first ? &mesh->mesh : nullptr, o.samples, comm);
    if (first) print(kind, all, one);
  });
}

}  // namespace

int main(int count, char** words) {
  keep_freed_memory();
  Options o;
  Ranks ranks;
  CLI::App app{"What ranks gain over one, beside what the machine's copy bandwidth gains"};
  app.add_option(
         "--ranks", ranks.threads,
         "as threads (default: one for each core); under mpiexec the processes are the ranks")
      ->check(CLI::PositiveNumber);
  app.add_option("--per-length", o.per_length, "surface leaves along the van, with all ranks")
      ->check(CLI::PositiveNumber);
  app.add_option("--samples", o.samples, "of three iterations each, of which the fastest counts")
      ->check(CLI::PositiveNumber);
  app.add_flag("--weak", o.weak, "as many cells for each rank: one rank gets a coarser mesh");
  CLI11_PARSE(app, count, words);
#ifdef DUNEFIELD_MPI
  std::optional<MpiSession> session;
  if (MpiSession::launched()) session.emplace(&count, &words), ranks.processes = &session->world();
#endif
  run(o, ranks);
}
