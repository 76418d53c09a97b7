// What this machine has for the tunnel: cores, memory, bandwidth, what recipe fits, what is
// installed beside.
#include <unistd.h>
#include <algorithm>
#include <chrono>
#include <fstream>
#include <thread>
#include <vector>

#include <fmt/format.h>
#include <dunefield/dunefield.hpp>

#include "commands.hpp"
#include "tables.hpp"

namespace dunefield::tool {
namespace {

double memory_bytes() {
  return static_cast<double>(sysconf(_SC_PHYS_PAGES)) * static_cast<double>(sysconf(_SC_PAGE_SIZE));
}

/// Copying arrays that no cache holds, on all cores at once.
double copy_bandwidth(int cores) {
  constexpr std::size_t size = 1 << 24;  // numbers a core
  std::vector<std::vector<double>> from(static_cast<std::size_t>(cores)), to(from.size());
  const auto copy = [&](int times) {
    std::vector<std::jthread> team;
    for (std::size_t i = 0; i < from.size(); ++i)
      team.emplace_back([&, i] {
        from[i].resize(size, 1.0), to[i].resize(size);
        for (int k = 0; k < times; ++k) std::copy(from[i].begin(), from[i].end(), to[i].begin());
      });
  };
  copy(1);  // the pages are the machine's own from here on
  constexpr int times = 5;
  const auto start = std::chrono::steady_clock::now();
  copy(times);
  const double seconds =
      std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return 2.0 * sizeof(double) * size * times * cores / seconds;
}

/// What half a demo van takes by recipe (docs/theory/performance.md).
struct Need {
  const char* recipe;
  double cells;
};
constexpr Need needs[] = {{"sketch", 8e4}, {"scout", 3e5}, {"standard", 1.2e6}, {"fine", 6e6}};
constexpr double bytes_a_cell = 1700;

}  // namespace

int doctor(const std::string& version, Console& console) {
  const int cores = static_cast<int>(std::max(1u, std::thread::hardware_concurrency()));
  const double memory = memory_bytes();
  console.progress("measuring the memory's bandwidth");
  const double bandwidth = copy_bandwidth(cores);
  console.line(fmt::format("version    Dunefield {}", version));
  console.line(fmt::format("cores      {}", cores));
  console.line(fmt::format("memory     {:.1f} GB", memory / 1e9));
  console.line(fmt::format(
      "bandwidth  {:.1f} GB/s copying on all cores: what an iteration waits for", bandwidth / 1e9));
#ifdef DUNEFIELD_MPI
  console.line("mpi        built in: mpiexec -n 4 dunefield run ...");
#else
  console.line("mpi        not built in: ranks are threads");
#endif
  const bool films = film_encoder_found();
  console.line(films ? "films      ffmpeg is there: MP4 and WebM"
                     : "films      no ffmpeg: films are written as single pictures");
  std::string largest = "none";
  std::vector<std::vector<std::string>> rows = {{"recipe", "cells, half van", "memory GB", "fits"}};
  Json recipes = Json::array();
  for (const Need& n : needs) {
    const double bytes = n.cells * bytes_a_cell;
    const bool fits = bytes < 0.8 * memory;
    if (fits) largest = n.recipe;
    rows.push_back({n.recipe, fmt::format("{:.0f}", n.cells), fmt::format("{:.1f}", bytes / 1e9),
                    fits ? "yes" : "no"});
    recipes.push_back({{"recipe", n.recipe}, {"memory_bytes", bytes}, {"fits", fits}});
  }
  console.table(rows);
  console.line("fits       up to " + largest + "; a whole model takes twice as much");
  console.json(dumped({{"version", version},
                       {"cores", cores},
                       {"memory_bytes", memory},
                       {"copy_bandwidth_bytes_s", bandwidth},
                       {"films", films},
                       {"recipes", recipes}}));
  return exit_code::done;
}

}  // namespace dunefield::tool
