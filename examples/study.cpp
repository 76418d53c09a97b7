// A vehicle and one variant compared at two speeds, without a campaign file. Prints each variant's
// change of drag with its uncertainty, and draws the variant.
//   example_study van.stl skirts.stl FOLDER
#include <cstdio>
#include <exception>

#include <dunefield/dunefield.hpp>

using namespace dunefield;

int main(int argc, char** argv) try {
  if (argc < 4) return std::puts("example_study VEHICLE ADDED FOLDER"), 2;
  const std::filesystem::path folder = argv[3];
  Study study(read_surface(argv[1]), {.half = true, .folder = folder});
  study.variant("with it").add(argv[2]);
  study.campaign().recipe.target_cells = 20'000;  // coarse, for the sake of this example
  study.campaign().limits.iterations = 60;
  study.at(kmh(90)).at(kmh(120)).run({.threads = 2});
  for (const VariantVerdict& v : study.differences()) std::puts(v.sentence.c_str());
  save_png(folder / "with-it.png", render(Picture(study.record("with it")).surface("Cp")));
} catch (const std::exception& e) {
  std::fprintf(stderr, "%s\n", e.what());
  return 1;
}
