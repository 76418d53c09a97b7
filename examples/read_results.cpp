// Reads what runs have left: prints a line for each run folder given.
//   example_read_results marram.runs/*
#include <cstdio>
#include <exception>
#include <filesystem>

#include <dunefield/dunefield.hpp>

int main(int argc, char** argv) {
  for (int i = 1; i < argc; ++i) {
    const std::filesystem::path folder = argv[i];
    if (!std::filesystem::exists(folder / dunefield::record_file::numbers)) continue;
    try {
      const dunefield::Figures f = dunefield::read_figures(folder);
      std::printf("%-20s %5.0f km/h  CD %.4f +- %.4f  drag %7.1f N  lift %+7.1f N  (%s)\n",
                  f.run.variant.c_str(), 3.6 * f.run.speed, f.cd.mean, f.cd.half_interval, f.drag,
                  f.lift, words(f.status));
    } catch (const std::exception& e) {
      std::fprintf(stderr, "%s\n", e.what());
      return 1;
    }
  }
}
