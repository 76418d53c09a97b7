// Eddies that decay behind a grid (Comte-Bellot and Corrsin 1971), resolved with the model that
// resolves eddies: whether it takes as much energy from them as it should.
#include <array>
#include <cmath>
#include <cstdio>
#include <numbers>
#include <random>

#include "validation.hpp"

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield::validation {
namespace {

using std::numbers::pi;

// Centimetres and seconds, as in the source: grid of 5.08 cm in a stream of 1000 cm/s.
constexpr double mesh_width = 5.08, stream = 1000, viscosity = 0.15;
constexpr double at_start = 42, later = 98, last = 171;  // times, in grid widths passed

struct Measured {
  double wave_number;            // 1/cm
  double at_start, later, last;  // energy per wave number, cm3/s2
};
constexpr std::array<Measured, 19> spectrum = {{{0.15, 90, 49.7, 49.7},
                                                {0.20, 129, 106, 92},
                                                {0.25, 230, 196, 120},
                                                {0.30, 322, 195, 125},
                                                {0.40, 435, 202, 98},
                                                {0.50, 457, 168, 81.5},
                                                {0.70, 380, 127, 60.2},
                                                {1.00, 270, 79.2, 39.4},
                                                {1.50, 168, 47.8, 24.1},
                                                {2.00, 120, 34.6, 16.5},
                                                {2.50, 89.0, 28.6, 12.5},
                                                {3.00, 70.3, 23.1, 9.12},
                                                {4.00, 47.0, 14.3, 5.62},
                                                {6.00, 24.7, 5.95, 1.69},
                                                {8.00, 12.6, 2.23, 0.520},
                                                {10.0, 7.42, 0.900, 0.161},
                                                {12.5, 3.96, 0.363, 0.052},
                                                {15.0, 2.33, 0.162, 0.0141},
                                                {20.0, 0.80, 0.033, 0.002}}};

/// Between the measured points by powers.
double energy_at(double k, double Measured::*when) {
  if (k <= spectrum.front().wave_number)
    return spectrum.front().*when * std::pow(k / spectrum.front().wave_number, 2);
  for (std::size_t i = 1; i < spectrum.size(); ++i) {
    const Measured &a = spectrum[i - 1], &b = spectrum[i];
    if (k > b.wave_number) continue;
    const double share = std::log(k / a.wave_number) / std::log(b.wave_number / a.wave_number);
    return a.*when * std::pow(b.*when / (a.*when), share);
  }
  return 0;
}

/// Of E times a power of the wave number.
double integral(double from, double to, double Measured::*when, double power = 0) {
  constexpr int steps = 2000;
  double sum = 0;
  for (int i = 0; i < steps; ++i) {
    const double k = from + (to - from) * (i + 0.5) / steps;
    sum += energy_at(k, when) * std::pow(k, power) * (to - from) / steps;
  }
  return sum;
}

/// A cube between slip walls: waves that are mirrored at them, half of them long.
struct Cube {
  int n;
  double side = 9 * pi, unit = 1.0 / 9;  // cm; the smallest wave number
  double cell() const { return side / n; }
  double finest() const { return n * unit; }
};

/// Random waves without divergence whose energy in each shell of wave numbers is the measured one.
std::vector<Vec3> waves(const Cube& cube, const std::vector<Vec3>& centre) {
  struct Wave {
    Vec3 number, size;
    int shell;
  };
  std::mt19937 random(1);
  std::normal_distribution<double> normal;
  std::vector<Wave> all;
  std::vector<double> energy(at(cube.n) + 1, 0.0);
  for (int a = 0; a < cube.n; ++a)
    for (int b = 0; b < cube.n; ++b)
      for (int c = 0; c < cube.n; ++c) {
        const Vec3 k = Vec3(a, b, c) * cube.unit;
        const int shell = static_cast<int>(std::lround(norm(k) / cube.unit));
        if (shell < 1 || shell >= cube.n) continue;
        Vec3 size{normal(random), normal(random), normal(random)};
        size -= k * (dot(size, k) / norm2(k));
        if (a == 0) size.x = 0;
        if (b == 0) size.y = 0;
        if (c == 0) size.z = 0;
        // What a component's square is in the mean over the cube.
        const auto mean = [&](int i) { return i == 0 ? 1.0 : 0.5; };
        energy[at(shell)] += 0.5 * norm2(size) * mean(a) * mean(b) * mean(c);
        all.push_back({k, size, shell});
      }
  for (Wave& w : all) {
    const double from = (w.shell - 0.5) * cube.unit, to = from + cube.unit;
    w.size *= std::sqrt(integral(from, to, &Measured::at_start) / energy[at(w.shell)]);
  }
  std::vector<Vec3> u(centre.size());
  parallel_for(centre.size(), [&](std::size_t i) {
    for (const Wave& w : all) {
      const Vec3 x{w.number.x * centre[i].x, w.number.y * centre[i].y, w.number.z * centre[i].z};
      const Vec3 c{std::cos(x.x), std::cos(x.y), std::cos(x.z)},
          s{std::sin(x.x), std::sin(x.y), std::sin(x.z)};
      u[i] +=
          Vec3{w.size.x * s.x * c.y * c.z, w.size.y * c.x * s.y * c.z, w.size.z * c.x * c.y * s.z};
    }
  });
  return u;
}

double energy_of(const std::vector<Vec3>& u, int own) {
  double sum = 0;
  for (int c = 0; c < own; ++c) sum += 0.5 * norm2(u[at(c)]) / own;
  return sum;
}

Result decay(int n) {
  const Cube cube{n};
  const VolumeMesh mesh = structured_mesh(n, n, n, [&](const Vec3& a) { return a * cube.side; });
  FlowCase c = test::laminar(viscosity, std::vector<BoundaryCondition>(6, test::slip()));
  c.options.turbulence = TurbulenceModel::sst_iddes;
  c.options.courant = 50;
  c.reference_speed = 20, c.reference_length = cube.side;
  Solver solver(mesh, c);
  Fields start;
  start.u = waves(cube, solver.share().centre);
  start.p.assign(at(mesh.cells), 0.0);
  // The model's own balance of what it makes and destroys at the resolved rates of strain.
  constexpr double gamma = 0.44, beta = 0.0828, c_des = 0.61;
  const double strain =
                   std::sqrt(2 * integral(cube.unit / 2, cube.finest(), &Measured::at_start, 2)),
               omega = std::sqrt(gamma / beta) * strain,
               modelled = std::pow(strain * strain * c_des * cube.cell() / omega, 2);
  start.k.assign(at(mesh.cells), modelled), start.omega.assign(at(mesh.cells), omega);
  solver->start_from(start);
  const double begin = energy_of(solver->state().u, mesh.cells);
  const double end = (last - at_start) * mesh_width / stream,
               middle = (later - at_start) * mesh_width / stream;
  const int steps = 4 * n;
  solver->begin_time(end / steps);
  int iterations = 0;
  double at_middle = 0, before = begin;
  for (int i = 1; i <= steps; ++i) {
    iterations += solver.step_in_time(0.01, 12);
    const double now = energy_of(solver->state().u, mesh.cells), time = end * i / steps;
    if (trace) std::fprintf(stderr, "%6.3f  %.2f  %d\n", time, now, iterations);
    if (time - end / steps < middle && time >= middle)
      at_middle = now + (before - now) * (time - middle) * steps / end;
    before = now;
  }
  const auto resolved = [&](double Measured::*when) {
    return integral(cube.unit / 2, cube.finest(), when);
  };
  return {{{"resolved energy at 98 grid widths over that at 42",
            resolved(&Measured::later) / resolved(&Measured::at_start), 0.15, at_middle / begin},
           {"resolved energy at 171 grid widths over that at 42",
            resolved(&Measured::last) / resolved(&Measured::at_start), 0.15, before / begin}},
          mesh.cells,
          iterations};
}

}  // namespace

std::vector<Case> decay_cases() {
  return {{"decay-32", "decaying eddies behind a grid, resolved, 32 cells across half a box",
           [] { return decay(32); }},
          {"decay-64", "decaying eddies behind a grid, resolved, 64 cells across half a box",
           [] { return decay(64); }}};
}

}  // namespace dunefield::validation
