// Flat plate without pressure gradient.
#include <cmath>

#include <fmt/format.h>

#include "validation.hpp"

namespace dunefield::validation {
namespace {

constexpr double speed = 50, nu = 1.5e-5, length = 3.2;

/// Friction coefficient along the plate.
Result plate(double first, double growth, TurbulenceModel model, double reference, double band,
             const std::string& what) {
  constexpr int before = 24, on = 200;
  std::vector<double> x;
  for (int i = before; i > 0; --i)
    x.push_back(-0.6 * (std::pow(1.15, i) - 1) / (std::pow(1.15, before) - 1));
  for (int i = 0; i <= on; ++i) x.push_back(length * std::pow(static_cast<double>(i) / on, 1.35));
  const std::vector<double> y = graded(first, growth, 0.08, 1.0);
  const int columns = static_cast<int>(x.size()) - 1, rows = static_cast<int>(y.size()) - 1;
  VolumeMesh mesh = structured_mesh(columns, rows, 1, [&](const Vec3& a) {
    return Vec3{x[static_cast<std::size_t>(std::lround(a.x * columns))],
                y[static_cast<std::size_t>(std::lround(a.y * rows))], 0.02 * a.z};
  });
  part_boundary(mesh, 2, before, "plate");
  FlowCase c = test::laminar(nu, {test::stream({speed, 0, 0}), test::outflow(), test::slip(),
                                  test::wall(), test::slip(), test::slip(), test::slip()});
  c.options.turbulence = model;
  c.options.courant = 10;
  c.reference_speed = speed;
  c.initial_velocity = {speed, 0, 0};
  Solver solver(mesh, c);
  const auto friction = [&](double reynolds) {
    const auto loads = solver->state().loads;
    const double at = reynolds * nu / speed;
    const auto& boundary = solver.share().boundaries[3];
    double cf = 0, nearest = 1e300;
    for (int i = boundary.first; i < boundary.first + boundary.count; ++i) {
      const auto& b = solver.share().boundary_faces[static_cast<std::size_t>(i)];
      if (std::abs(b.centre.x - at) < nearest)
        nearest = std::abs(b.centre.x - at),
        cf = loads[static_cast<std::size_t>(i)].friction.x / b.size / (0.5 * speed * speed);
    }
    return cf;
  };
  const auto mean_friction = [&](double reynolds) {
    const auto loads = solver->state().loads;
    const auto& boundary = solver.share().boundaries[3];
    double force = 0, area = 0;
    for (int i = boundary.first; i < boundary.first + boundary.count; ++i)
      if (const auto& b = solver.share().boundary_faces[static_cast<std::size_t>(i)];
          b.centre.x < reynolds * nu / speed)
        force += loads[static_cast<std::size_t>(i)].friction.x, area += b.size;
    return force / area / (0.5 * speed * speed);
  };
  const int iterations = solver.until_steady([&] { return friction(4.85e6); }, 2e-4, 4000);
  // Elsewhere: the slope of 0.455 / ln^2(0.06 Re_x) (White).
  const auto white = [](double re) { return 0.455 / std::pow(std::log(0.06 * re), 2); };
  Result result{
      {{"c_f at Re_x 4.85e6, " + what, reference, band, friction(4.85e6)}}, mesh.cells, iterations};
  for (const double re : {2e6, 8e6})
    result.rows.push_back({fmt::format("c_f at Re_x {:.0e} over that, {}", re, what),
                           white(re) / white(4.85e6), band, friction(re) / friction(4.85e6)});
  // The value asked for may be the whole plate's: it is that model's mean up to 1e7.
  if (model == TurbulenceModel::spalart_allmaras)
    result.rows.push_back({"mean c_f up to Re_x 1e7, " + what, reference, 0, mean_friction(1e7)});
  return result;
}

}  // namespace

std::vector<Case> plate_cases() {
  const auto one = [](const std::string& name, const std::string& title, double first,
                      double growth, TurbulenceModel model, double reference, double band,
                      const std::string& what) {
    return Case{name, title, [=] { return plate(first, growth, model, reference, band, what); }};
  };
  using enum TurbulenceModel;
  return {one("plate-sst", "flat plate, SST, resolved", 8e-6, 1.12, sst, 0.00271, 0.025,
              "first cell at y+ 0.5"),
          one("plate-sst-law", "flat plate, SST, wall law", 1e-3, 1.15, sst, 0.00271, 0.07,
              "first cell at y+ 60"),
          one("plate-sa", "flat plate, Spalart-Allmaras, resolved", 8e-6, 1.12, spalart_allmaras,
              0.00286, 0.025, "first cell at y+ 0.5"),
          one("plate-sa-law", "flat plate, Spalart-Allmaras, wall law", 1e-3, 1.15,
              spalart_allmaras, 0.00286, 0.07, "first cell at y+ 60")};
}

}  // namespace dunefield::validation
