// Throughput of mesher and solver beside the machine's own copy bandwidth, in one run:
//   build/release/bin/dunefield_bench
#include <barrier>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <thread>

#include <benchmark/benchmark.h>

#include <dunefield/base/memory.hpp>
#include <dunefield/geometry/query/surface_query.hpp>
#include <dunefield/parallel/parallel_for.hpp>

#include "van_case.hpp"

namespace {

using namespace dunefield;
using namespace dunefield::bench;

/// A bumpy body of about a million triangles, 4.9 m long.
const Surface& million() {
  static const Surface s = [] {
    constexpr int rings = 500;
    std::vector<std::vector<Vec3>> skin;
    for (int i = 0; i <= rings; ++i) {
      const double u = 3.14159265358979 * i / rings;
      std::vector<Vec3> ring;
      for (int j = 0; j < 2 * rings; ++j) {
        const double v = 3.14159265358979 * j / rings,
                     r = i == 0 || i == rings ? 0 : 1 + 0.05 * std::sin(8 * u) * std::sin(6 * v);
        ring.push_back({2.4 * r * std::sin(u) * std::cos(v), 0.9 * r * std::sin(u) * std::sin(v),
                        0.75 + 0.75 * (r == 0 ? 1 : r) * std::cos(u)});
      }
      skin.push_back(ring);
    }
    return loft("million", skin);
  }();
  return s;
}

/// Points within `reach` of the surface, in the order of the triangles or shuffled.
std::vector<Vec3> points_near(double reach, bool shuffled) {
  const Surface& s = million();
  std::vector<Vec3> points;
  std::uint64_t random = 1;
  const auto next = [&] {
    return random = random * 6364136223846793005ull + 1442695040888963407ull,
           static_cast<double>(random >> 11) / 9007199254740992.0;
  };
  for (int i = 0; i < 400'000; ++i) {
    const auto t = shuffled ? static_cast<std::size_t>(next() * static_cast<double>(s.size()))
                            : s.size() * static_cast<std::size_t>(i) / 400'000;
    points.push_back(s.centroid(t) + Vec3{next() - 0.5, next() - 0.5, next() - 0.5} * (2 * reach));
  }
  return points;
}

/// Distance (0) or inside (1), within 10 mm or 500 mm of a surface of a million triangles, on all
/// cores.
void surface_queries(benchmark::State& state) {
  static const SurfaceQuery query(million());
  const std::vector<Vec3> points =
      points_near(static_cast<double>(state.range(1)) / 1000, state.range(2));
  for (auto _ : state)
    parallel_for(points.size(), [&](std::size_t i) {
      if (state.range(0))
        benchmark::DoNotOptimize(query.inside(points[i]));
      else
        benchmark::DoNotOptimize(query.nearest(points[i], 10));
    });
  state.counters["points/s"] = benchmark::Counter(
      static_cast<double>(points.size() * state.iterations()), benchmark::Counter::kIsRate);
}
BENCHMARK(surface_queries)
    ->ArgNames({"inside", "within_mm", "shuffled"})
    ->ArgsProduct({{0, 1}, {10, 500}, {0, 1}})
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

/// Reading a binary STL file of a million triangles.
void reading_stl(benchmark::State& state) {
  const auto file = std::filesystem::temp_directory_path() / "dunefield-bench.stl";
  write_stl_binary(file, million());
  for (auto _ : state) benchmark::DoNotOptimize(read_stl(file).size());
  state.SetBytesProcessed(static_cast<std::int64_t>(std::filesystem::file_size(file)) *
                          state.iterations());
  std::filesystem::remove(file);
}
BENCHMARK(reading_stl)->Unit(benchmark::kMillisecond)->UseRealTime();

/// Bytes read and written by copying 2 GiB arrays on all cores.
void copy_bandwidth(benchmark::State& state) {
  const auto threads = static_cast<std::size_t>(state.range(0));
  constexpr std::size_t size = std::size_t{1} << 31;
  std::vector<char> from(size, 1), to(size, 2);
  for (auto _ : state) {
    std::vector<std::jthread> team;
    for (std::size_t t = 0; t < threads; ++t)
      team.emplace_back([&, t] {
        std::memcpy(to.data() + size / threads * t, from.data() + size / threads * t,
                    size / threads);
      });
    team.clear();
    benchmark::DoNotOptimize(to.data());
  }
  state.SetBytesProcessed(static_cast<std::int64_t>(state.iterations()) * 2 *
                          static_cast<std::int64_t>(size));
}

/// Multiplications with addition on numbers in registers, on all cores: what two cores are worth
/// where memory does not count.
void arithmetic(benchmark::State& state) {
  const auto threads = static_cast<std::size_t>(state.range(0));
  constexpr int steps = 20'000'000, lanes = 32;
  for (auto _ : state) {
    std::vector<std::jthread> team;
    for (std::size_t t = 0; t < threads; ++t)
      team.emplace_back([] {
        double x[lanes] = {};
        for (int n = 0; n < steps; ++n)
          for (double& v : x) v = v * 0.999 + 1;
        benchmark::DoNotOptimize(x);
      });
  }
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(threads) * steps * lanes);
}

/// Iterations with SST; the counter is microseconds of one core per cell and iteration.
void iterate_sst(benchmark::State& state) {
  const auto ranks = static_cast<int>(state.range(0));
  const MeshResult mesh = van_mesh(static_cast<double>(state.range(1)));
  const auto distance = van_wall_distances(mesh.mesh);
  const FlowCase flow = van_case(mesh.mesh);
  run_on_threads(ranks, [&](Communicator& comm) {
    const bool root = comm.rank() == 0;
    const FlowMesh share =
        distribute(root ? &mesh.mesh : nullptr, root ? &distance : nullptr, comm);
    FlowSolver solver(share, flow, comm);
    begin(solver);
    constexpr int batch = 20;
    if (root) {
      const StageClock before = solver.state().clock;
      double iterations = 0;
      for (auto _ : state) {
        for (int r = 1; r < comm.size(); ++r) comm.send(r, std::span<const int>(&batch, 1));
        for (int i = 0; i < batch; ++i) solver.iterate();
        iterations += batch;
      }
      // Microseconds by stage, of the first rank.
      for (std::size_t i = 0; i < stage_names.size(); ++i) {
        const auto stage = static_cast<Stage>(i);
        state.counters[stage_names[i]] =
            1e6 * (solver.state().clock.seconds(stage) - before.seconds(stage)) /
            (iterations * share.own);
      }
      const int end = 0;
      for (int r = 1; r < comm.size(); ++r) comm.send(r, std::span<const int>(&end, 1));
    } else {
      for (int n = 0;;) {
        comm.receive(0, std::span(&n, 1));
        if (n == 0) break;
        for (int i = 0; i < n; ++i) solver.iterate();
      }
    }
  });
  state.counters["cells"] = mesh.quality.cells;
  // Rank-seconds per cell and iteration: inverted rates come out as time.
  state.counters["per_cell_and_iteration_and_core"] = benchmark::Counter(
      20.0 * mesh.quality.cells / ranks,
      benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

/// The same by as many programs of one rank each as there are cores, which share nothing but the
/// machine: what ranks could gain at best here.
void iterate_sst_apart(benchmark::State& state) {
  const auto programs = state.range(0);
  const MeshResult mesh = van_mesh(static_cast<double>(state.range(1)));
  const auto distance = van_wall_distances(mesh.mesh);
  const FlowCase flow = van_case(mesh.mesh);
  constexpr int batch = 20;
  bool more = true;
  std::barrier gate(programs + 1);
  const auto program = [&](Communicator& comm) {
    const FlowMesh share = distribute(&mesh.mesh, &distance, comm);
    FlowSolver solver(share, flow, comm);
    begin(solver);
    gate.arrive_and_wait();
    for (;;) {
      gate.arrive_and_wait();
      if (!more) return;
      for (int i = 0; i < batch; ++i) solver.iterate();
      gate.arrive_and_wait();
    }
  };
  std::vector<std::jthread> team;
  for (int p = 0; p < programs; ++p) team.emplace_back([&] { run_on_threads(1, program); });
  gate.arrive_and_wait();
  for (auto _ : state) {
    gate.arrive_and_wait();
    gate.arrive_and_wait();
  }
  more = false;
  gate.arrive_and_wait();
  state.counters["cells"] = mesh.quality.cells;
  state.counters["per_cell_and_iteration_and_core"] = benchmark::Counter(
      1.0 * batch * mesh.quality.cells,
      benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

/// With three layers and with the recipe's five.
void mesh_van(benchmark::State& state) {
  int cells = 0;
  double share = 0;
  for (auto _ : state) {
    const MeshResult mesh =
        van_mesh(static_cast<double>(state.range(0)), static_cast<int>(state.range(1)));
    cells = mesh.quality.cells, share = share_at_layers(mesh);
  }
  state.counters["cells"] = cells;
  state.counters["share_at_layers"] = share;
  state.counters["cells_per_second"] =
      benchmark::Counter(cells, benchmark::Counter::kIsIterationInvariantRate);
}

BENCHMARK(copy_bandwidth)->Arg(1)->Arg(2)->UseRealTime()->Unit(benchmark::kMillisecond);
BENCHMARK(arithmetic)->Arg(1)->Arg(2)->UseRealTime()->Unit(benchmark::kMillisecond);
BENCHMARK(mesh_van)
    ->ArgNames({"per_length", "layers"})
    ->ArgsProduct({{130, 220}, {3, 5}})
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK(iterate_sst)
    ->ArgNames({"ranks", "per_length"})
    ->ArgsProduct({{1, 2}, {130, 245}})
    ->Args({2, 500})
    ->Args({1, 330})
    ->Args({1, 615})
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK(iterate_sst_apart)
    ->ArgNames({"programs", "per_length"})
    ->Args({2, 130})
    ->Args({2, 245})
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);

}  // namespace

int main(int count, char** words) {
  dunefield::keep_freed_memory();
  benchmark::Initialize(&count, words);
  benchmark::RunSpecifiedBenchmarks();
}
