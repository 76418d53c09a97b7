// From a surface file to a number, a record and pictures, without a campaign file.
//   example_van van.stl "90 km/h"
#include <cstdio>
#include <exception>

#include <dunefield/dunefield.hpp>

using namespace dunefield;

int main(int argc, char** argv) try {
  if (argc < 3) return std::puts("example_van SURFACE SPEED [FOLDER]"), 2;
  // How the numbers of the file become a vehicle: unit, nose, road height; wheels are found.
  const Vehicle van = read_vehicle(argv[1], {.unit = metre, .nose = "-x", .centred = true});

  RunSetup setup{van,
                 {.half = true},
                 recipe("scout"),
                 {.speed = parse_quantity(argv[2], Dimension::speed, "the second argument")}};
  setup.recipe.surface_size = 0.12;  // coarse, for the sake of this example
  setup.limits.iterations = 60;
  for (const Finding& f : setup.check()) std::printf("%s\n", f.text.c_str());
  for (const std::string& line : setup.in_words()) std::puts(line.c_str());

  const MeshResult mesh = build_mesh(setup);
  const Record record = run(setup, mesh, {.threads = 2});
  std::puts(record.brief().c_str());
  if (!record.usable()) std::printf("not yet to be used: %s\n", record.why().c_str());

  // A record stands by itself: saved, it can be opened at any time.
  if (argc < 4) return 0;
  record.save(argv[3]);
  const Record again = Record::open(argv[3]);
  save_png(std::filesystem::path(argv[3]) / "smoke.png",
           render(Picture(again).surface("Cp").smoke(nose_rake(again))));
  for (const Quantity& q : quantities(again))
    std::printf("%s%s%s\n", q.name.c_str(), q.unit.empty() ? "" : ", ", q.unit.c_str());
} catch (const std::exception& e) {
  std::fprintf(stderr, "%s\n", e.what());
  return 1;
}
