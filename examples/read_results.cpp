// Reads what runs have left: prints a line for each run folder given.
//   example_read_results marram.runs/*
#include <cstdio>
#include <exception>
#include <filesystem>

#include <dunefield/dunefield.hpp>

int main(int argc, char** argv) {
  for (int i = 1; i < argc; ++i) {
    const std::filesystem::path folder = argv[i];
    if (!std::filesystem::exists(folder / "balance.json")) continue;
    try {
      const dunefield::RunFigures run = dunefield::read_balance(folder / "balance.json");
      std::printf("%-20s %5.0f km/h  CD %.4f +- %.4f  drag %7.1f N  lift %+7.1f N  (%s)\n",
                  run.variant.c_str(), 3.6 * run.speed, run.cd.mean, run.cd.half_interval, run.drag,
                  run.lift, run.status.c_str());
    } catch (const std::exception& e) {
      std::fprintf(stderr, "%s\n", e.what());
      return 1;
    }
  }
}
