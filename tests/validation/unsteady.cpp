// Flow in time: the vortex street behind a circular cylinder.
#include <cmath>
#include <cstdio>

#include "validation.hpp"

namespace dunefield::validation {
namespace {

/// Times at which a series crosses its mean upwards.
std::vector<double> upward_crossings(const std::vector<double>& v, double step) {
  double mean = 0;
  for (const double x : v) mean += x / static_cast<double>(v.size());
  std::vector<double> out;
  for (std::size_t i = 1; i < v.size(); ++i)
    if (v[i - 1] < mean && v[i] >= mean)
      out.push_back((static_cast<double>(i - 1) + (mean - v[i - 1]) / (v[i] - v[i - 1])) * step);
  return out;
}

/// Re 100, the ring around the cylinder of the steady cases with more cells across.
Result street() {
  constexpr double step = 0.05, start_up = 90, end = 150;
  const VolumeMesh mesh = ring_around_cylinder(160, 130);
  FlowCase c = test::laminar(
      0.01, {test::wall(), test::outflow(), test::stream({1, 0, 0}), test::slip(), test::slip()});
  // A stream that is not quite along the axis at first wakes the street up sooner.
  c.initial_velocity = {1, 0.1, 0};
  c.options.courant = 50;
  Solver solver(mesh, c);
  for (int i = 0; i < 30; ++i) solver->iterate();
  solver->begin_time(step);
  std::vector<double> cd, cl;
  int iterations = 30;
  for (int i = 1; i <= static_cast<int>(end / step); ++i) {
    iterations += solver.step_in_time(0.02, 10);
    const Vec3 force = solver.force(0) / (0.5 * 0.1);
    if (trace && i % 40 == 0)
      std::fprintf(stderr, "%6.2f  %.5f  %+.5f  %d\n", i * step, force.x, force.y, iterations);
    if (i * step > start_up) cd.push_back(force.x), cl.push_back(force.y);
  }
  const std::vector<double> up = upward_crossings(cl, step);
  const double period = (up.back() - up.front()) / static_cast<double>(up.size() - 1);
  double mean = 0;
  const auto from = static_cast<std::size_t>(up.front() / step),
             to = static_cast<std::size_t>(up.back() / step);
  for (std::size_t i = from; i < to; ++i) mean += cd[i] / static_cast<double>(to - from);
  return {{{"Strouhal number", 0.165, 0.02, 1 / period}, {"mean CD", 1.345, 0.02, mean}},
          mesh.cells,
          iterations};
}

}  // namespace

std::vector<Case> unsteady_cases() {
  return {{"street-100", "vortex street of a circular cylinder, Re 100, 120 D wide", street}};
}

}  // namespace dunefield::validation
