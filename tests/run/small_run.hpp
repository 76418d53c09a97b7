// A brick above the road that runs in a second, for tests of runs and records.
#pragma once

#include <dunefield/geometry/frontal_area.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/run/run.hpp>

namespace dunefield::test {

inline RunSetup small_setup() {
  RunSetup s;
  s.vehicle.name = "brick \xff";
  s.vehicle.surface =
      rounded_box("body, \"upper\"", Box{{-0.5, -0.2, 0.05}, {0.5, 0.2, 0.35}}, 0.06);
  append(s.vehicle.surface, rounded_box("fin", Box{{0.3, -0.02, 0.3}, {0.48, 0.02, 0.5}}, 0));
  s.vehicle.frontal_area = frontal_area(s.vehicle.surface);
  s.tunnel.half = true, s.tunnel.ahead = 2, s.tunnel.behind = 3;
  s.recipe.surface_size = s.recipe.smallest_size = 0.05;
  s.recipe.layers.count = 2;
  s.conditions.speed = 20;
  s.limits.iterations = 15;
  return s;
}

/// Run once for all tests of a program.
inline const Record& small_record() {
  static const Record r = [] {
    RunSetup s = small_setup();
    s.readings.taps = {{"nose", {-0.5, 0, 0.2}}};
    s.check();
    return run(s, build_mesh(s), {.threads = 1});
  }();
  return r;
}

}  // namespace dunefield::test
