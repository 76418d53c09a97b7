// Laminar flows: cavity, circular cylinders in a wide stream, sphere.
#include <cmath>
#include <numbers>

#include "validation.hpp"

namespace dunefield::validation {
namespace {

using std::numbers::pi;

/// Drag coefficient and length of the wake behind the cylinder, in diameters.
Result cylinder(double reynolds, double cd, double wake) {
  constexpr int around = 160, across = 110;
  const VolumeMesh mesh = ring_around_cylinder(around, across);
  FlowCase c = test::laminar(1 / reynolds, {test::wall(), test::outflow(), test::stream({1, 0, 0}),
                                            test::slip(), test::slip()});
  c.initial_velocity = {1, 0, 0};
  Solver solver(mesh, c);
  const auto drag = [&] { return solver.force(0).x / (0.5 * 0.1); };
  const int iterations = solver.until_steady(drag, 1e-5, 6000);
  // The axis lies between two columns of cells.
  double end = 0, x0 = 0, u0 = 0;
  for (int j = 0; j < across; ++j) {
    const auto cell = static_cast<std::size_t>(j * around + around / 4);
    const double x = mesh.cell_centre[cell].x, u = solver->state().u[cell].x;
    if (j > 0 && u0 < 0 && u >= 0) end = x0 + (x - x0) * -u0 / (u - u0);
    x0 = x, u0 = u;
  }
  return {{{"CD", cd, 0.03, drag()}, {"wake length over D", wake, 0.06, end - 0.5}},
          mesh.cells,
          iterations};
}

Result cavity(double reynolds, int n, double band,
              const std::vector<std::pair<double, double>>& values) {
  const auto stretch = [](double a) {
    return 0.5 - 0.5 * std::tanh(1.4 * (1 - 2 * a)) / std::tanh(1.4);
  };
  const VolumeMesh mesh = structured_mesh(n, n, 1, [&](const Vec3& a) {
    return Vec3{stretch(a.x), stretch(a.y), a.z / n};
  });
  FlowCase c = test::laminar(1 / reynolds, {test::wall(), test::wall(), test::wall(),
                                            test::wall({1, 0, 0}), test::slip(), test::slip()});
  c.options.courant = 50;
  Solver solver(mesh, c);
  int iterations = 0;
  for (double residual = 1; residual > 1e-5 && iterations < 4000; ++iterations)
    residual = solver->iterate().momentum_residual;
  Result result{{}, mesh.cells, iterations};
  for (const auto& [y, u] : values)
    result.rows.push_back({"u at y = " + std::to_string(y).substr(0, 6), u, band,
                           test::centre_line(mesh, solver->state().u, n, y), 1});
  return result;
}

Result sphere() {
  const MeshResult m = test::sphere_mesh(0.05);
  const FlowCase c = test::sphere_case(m.mesh, 100);
  const test::Solution s = test::solve(m.mesh, c, 150, 1e-6);
  // On the axis behind the sphere: where does the air stop running back?
  double end = 0, x0 = 0, u0 = -1;
  std::vector<std::pair<double, double>> axis;
  for (std::size_t i = 0; i < s.fields.u.size(); ++i) {
    const Vec3& p = m.mesh.cell_centre[i];
    if (std::hypot(p.y, p.z - 15) < 0.06 && p.x > 0.5 && p.x < 4)
      axis.push_back({p.x, s.fields.u[i].x});
  }
  std::sort(axis.begin(), axis.end());
  for (const auto& [x, u] : axis) {
    if (u0 < 0 && u >= 0 && end == 0) end = x0 + (x - x0) * -u0 / (u - u0);
    x0 = x, u0 = u;
  }
  return {{{"CD", 1.09, 0.02, s.balance.total().force.x / (0.5 * 0.25 * pi)},
           {"bubble length over D", 0.87, 0.05, end - 0.5}},
          m.mesh.cells,
          static_cast<int>(s.cd_history.size())};
}

}  // namespace

std::vector<Case> laminar_cases() {
  return {{"cavity-100", "lid-driven cavity, Re 100 (Ghia, Ghia, Shin 1982)",
           [] {
             return cavity(100, 40, 0.007,
                           {{0.9531, 0.68717},
                            {0.7344, 0.00332},
                            {0.5, -0.2091},
                            {0.2813, -0.15662},
                            {0.1016, -0.06434}});
           }},
          {"cavity-1000", "lid-driven cavity, Re 1000 (Botella and Peyret 1998)",
           [] {
             return cavity(1000, 80, 0.004,
                           {{0.9531, 0.47233},
                            {0.7344, 0.18867},
                            {0.5, -0.06206},
                            {0.2813, -0.28037},
                            {0.1719, -0.38857},
                            {0.1016, -0.30046}});
           }},
          {"cylinder-20", "circular cylinder, Re 20, 120 D wide",
           [] { return cylinder(20, 2.05, 0.93); }},
          {"cylinder-40", "circular cylinder, Re 40, 120 D wide",
           [] { return cylinder(40, 1.53, 2.24); }},
          {"sphere-100", "sphere, Re 100, our mesher", sphere}};
}

}  // namespace dunefield::validation
