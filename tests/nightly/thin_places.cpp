// Random assemblies of thin things, meshed and measured: a night's worth is
//   build/release/bin/thin_places --count 200
#include <cstdio>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include <dunefield/files/vtu.hpp>
#include <tests/support/thin_assemblies.hpp>

int main(int argc, char** argv) {
  using namespace dunefield;
  unsigned first = 0, count = 20;
  std::string into;
  CLI::App app("Mesh random thin assemblies and say what is wrong with each.");
  app.add_option("--first", first, "the first seed");
  app.add_option("--count", count, "how many");
  app.add_option("--into", into, "write each mesh that is not right into this folder");
  CLI11_PARSE(app, argc, argv);
  unsigned wrong = 0;
  for (unsigned seed = first; seed < first + count; ++seed) {
    const ThinAssembly a = thin_assembly(seed);
    try {
      const MeshResult m = build_mesh(a.surface, thin_tunnel(), thin_mesh_options());
      const ThinMeasures t = measure_thin(a, m);
      const bool right = t.missing < 2e-3 * t.area && t.too_much < 2e-3 * t.area &&
                         t.through == 0 && std::abs(t.area_ratio - 1) < 0.02 && t.glued < 0.5;
      wrong += !right;
      fmt::print(
          "{:3} {:5} {:50} {:7} cells {:4.1f} s  missing {:6.2f} too much {:6.2f} through {:6.2f} "
          "cm2, area {:6.3f}, glued {:.2f} {}\n",
          seed, right ? "ok" : "WRONG", a.what, m.quality.cells, m.seconds, 1e4 * t.missing,
          1e4 * t.too_much, 1e4 * t.through, t.area_ratio, t.glued,
          right ? "" : fmt::format("({:.3f}, {:.3f}, {:.3f})", t.place.x, t.place.y, t.place.z));
      if (!right && !into.empty()) write_vtu(into + fmt::format("/thin-{}.vtu", seed), m.mesh, {});
    } catch (const std::exception& e) {
      ++wrong;
      fmt::print("{:3} WRONG {:50} {}\n", seed, a.what, e.what());
    }
    std::fflush(stdout);
  }
  fmt::print("{} of {} wrong\n", wrong, count);
  return wrong > 0;
}
