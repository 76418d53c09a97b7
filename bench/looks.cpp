// How long looks take on a record: opening it, slices, flow texture, smoke, surfaces of equal
// value, a whole picture. Each is the best of a few; the machine's copy bandwidth stands beside
// them.
//   looks RECORD
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <functional>
#include <memory>

#include <dunefield/dunefield.hpp>
#include <dunefield/look/iso_surface.hpp>
#include <dunefield/look/plane_cut.hpp>
#include <dunefield/look/plane_raster.hpp>

using namespace dunefield;

namespace {

double seconds(const std::function<void()>& work, int times) {
  double best = 1e300;
  for (int i = 0; i < times; ++i) {
    const auto start = std::chrono::steady_clock::now();
    work();
    best = std::min(
        best, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
  }
  return best;
}

double copy_bandwidth() {
  std::vector<double> a(1 << 25, 1.0), b(a.size());
  const double s = seconds([&] { std::copy(a.begin(), a.end(), b.begin()); }, 5);
  return 2 * 8 * static_cast<double>(a.size()) / s;
}

void tell(const char* what, double s, double asked) {
  std::printf("%-58s %7.2f s  asked %5.2f s\n", what, s, asked);
}

}  // namespace

int main(int argc, char** argv) try {
  if (argc != 2) return std::puts("looks RECORD"), 2;
  std::printf("copy bandwidth of one core %.1f GB/s\n", 1e-9 * copy_bandwidth());
  std::unique_ptr<Record> record;
  const double opening =
      seconds([&] { record = std::make_unique<Record>(Record::open(argv[1])); }, 2);
  std::printf("%s: %d cells%s\n", title_of(*record).c_str(), record->quality.cells,
              record->run.half ? ", half" : "");
  tell("opening", opening, 2);
  std::shared_ptr<FlowView> view;
  tell("what all looks share (faces of cells)",
       seconds([&] { view = std::make_shared<FlowView>(*record); }, 2), 0);
  const Plane plane{{0, 0.2, 0}, {0, 1, 0}};
  tell("slice with values between cells",
       seconds([&] { PlaneCut(*view, plane).sheet("speed ratio"); }, 3), 0.3);
  SliceLook textured;
  textured.plane = plane, textured.texture = true;
  tell("slice with flow texture", seconds([&] { Picture(view).slice(textured); }, 2), 1);
  const std::vector<Vec3> seeds = nose_rake(*record, 500);
  tell("500 smoke lines, the first time",
       seconds([&] { streamlines(*std::make_shared<FlowView>(*record), seeds); }, 1), 2);
  view->point_velocity();
  tell("500 smoke lines, again", seconds([&] { streamlines(*view, seeds); }, 2), 2);
  tell("surface of equal value", seconds([&] { iso_surface(*view, "total Cp", 0.2); }, 2), 2);
  PictureRequest all;
  all.surface = {""}, all.slice = {"y = 0"}, all.smoke = {""};
  tell("picture of vehicle, slice and smoke, 1280 x 800", seconds([&] { look_at({view}, all); }, 2),
       1.5);
  return 0;
} catch (const std::exception& e) {
  std::fprintf(stderr, "%s\n", e.what());
  return 1;
}
