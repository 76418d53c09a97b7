// Fully developed channel flow driven by a given force (Lee and Moser 2015), at several heights of
// the first cell.
#include <cmath>
#include <map>
#include <numbers>

#include <fmt/format.h>

#include "validation.hpp"

#include <dunefield/base/index.hpp>

namespace dunefield::validation {
namespace {

using std::numbers::pi;

/// Bulk velocity over friction velocity. The channel is a very wide ring, so that it has no ends:
/// half of it, from the wall (the inner side) to the centre line, of height 1.
Result channel(double re_tau, double y_plus, TurbulenceModel model, double reference, double band,
               const std::string& what) {
  constexpr double radius = 300;
  constexpr int around = 300;
  const std::vector<double> y = graded(2 * y_plus / re_tau, 1.15, 0.05, 1);
  const int rows = static_cast<int>(y.size()) - 1;
  const VolumeMesh mesh = structured_mesh(
      around, rows, 1,
      [&](const Vec3& a) {
        const double r = radius + y[at(std::lround(a.y * rows))], angle = -2 * pi * a.x;
        return Vec3{r * std::cos(angle), r * std::sin(angle), a.z};
      },
      true);
  const auto along = [](const Vec3& x) { return unit(Vec3{x.y, -x.x, 0}); };
  FlowCase c = test::laminar(1 / re_tau, {test::wall(), test::slip(), test::slip(), test::slip()});
  c.options.turbulence = model;
  c.options.courant = 10;
  c.reference_speed = 20;
  // The force balances a shear of 1 on the wall, the ring's curvature allowed for.
  const double outer = radius + 1,
               force = (radius * radius) / ((outer * outer * outer - radius * radius * radius) / 3);
  c.options.body_force = [=](const Vec3& x) { return along(x) * force; };
  Solver solver(mesh, c);
  Fields start = solver->gather();
  for (std::size_t i = 0; i < start.u.size(); ++i) start.u[i] = along(mesh.cell_centre[i]) * 20;
  for (double& k : start.k) k = 2;
  for (double& omega : start.omega) omega = 30;
  for (double& nu : start.nu_tilde) nu = 0.05;
  solver->start_from(start);
  const auto bulk = [&] {
    double sum = 0, volume = 0;
    for (int i = 0; i < mesh.cells; ++i)
      sum +=
          mesh.cell_volume[at(i)] * dot(solver->state().u[at(i)], along(mesh.cell_centre[at(i)])),
          volume += mesh.cell_volume[at(i)];
    return sum / volume;
  };
  const int iterations = solver.until_steady(bulk, 2e-5, 6000);
  return {{{fmt::format("bulk velocity, first cell at y+ {:.0f} ({})", y_plus, what), reference,
            band, bulk()}},
          mesh.cells,
          iterations};
}

}  // namespace

std::vector<Case> channel_cases() {
  std::vector<Case> cases;
  for (const auto& [re, bulk] : std::map<int, double>{{1000, 20.0}, {5200, 24.1}})
    cases.push_back(
        {fmt::format("channel-{}", re),
         fmt::format(
             "channel, Re_tau {} (Lee and Moser 2015), SST; from y+ 5 on against our own at y+ 1",
             re),
         [re = re, bulk = bulk] {
           Result all = channel(re, 1, TurbulenceModel::sst, bulk, 0.04, "resolved");
           const double own = all.rows[0].got;
           for (const double y : {5., 15., 30., 100.}) {
             if (y == 100 && re < 5000) continue;
             const Result one =
                 channel(re, y, TurbulenceModel::sst, own, y < 20 ? 0.07 : 0.04, "against y+ 1");
             all.rows.push_back(one.rows[0]);
             all.iterations += one.iterations;
           }
           return all;
         }});
  cases.push_back({"channel-models", "channel, Re_tau 5200, other models", [] {
                     Result all = channel(5200, 1, TurbulenceModel::spalart_allmaras, 24.1, 0.04,
                                          "Spalart-Allmaras");
                     all.rows.push_back(
                         channel(5200, 1, TurbulenceModel::wilcox, 24.1, 0.04, "k-omega").rows[0]);
                     for (const auto& [model, what] :
                          {std::pair{TurbulenceModel::k_epsilon, "k-epsilon"},
                           {TurbulenceModel::realizable_k_epsilon, "realizable k-epsilon"},
                           {TurbulenceModel::wilcox, "k-omega"}})
                       all.rows.push_back(channel(5200, 30, model, 24.1, 0.07, what).rows[0]);
                     return all;
                   }});
  return cases;
}

}  // namespace dunefield::validation
