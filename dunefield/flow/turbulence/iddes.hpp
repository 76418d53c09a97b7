// Improved delayed detached-eddy simulation on SST (Gritskevich, Garbaruk, Schuetze and Menter
// 2012): away from walls eddies larger than the cells are resolved, and the model takes energy from
// them at the size of the cells. Only where there are eddies is the flow carried by central
// differences (Travin, Shur, Strelets and Spalart 2002): in a calm stream those would make some.
#pragma once

#include <algorithm>
#include <cmath>

#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield::iddes {

struct Cell {
  double k, omega, nu, nu_t;
  double wall_distance, largest_edge;  ///< m
  double gradient2;                    ///< (S^2 + Omega^2) / 2 of the velocity gradient, 1/s2
};

/// Of the outer branch of SST: near walls, where it would be 0.78, eddies are hardly resolved.
inline constexpr double c_des = 0.61;

struct Scales {
  double destruction;  ///< of k, over that of SST
  double modelled;     ///< 1 where all turbulence is the model's, 0 where eddies are resolved
};

inline Scales scales_of(const Cell& c) {
  constexpr double c_mu = 0.09, c_w = 0.15;
  constexpr double c_dt = 20, c_l = 5, c_t = 1.87, kappa = wall_law::kappa;
  const double d = c.wall_distance, h = c.largest_edge;
  const double rans = std::sqrt(c.k) / (c_mu * c.omega), delta = std::min(c_w * std::max(d, h), h),
               les = c_des * delta;
  const double sheared = kappa * kappa * d * d * std::sqrt(std::max(c.gradient2, 1e-20)),
               r_dt = c.nu_t / sheared, r_dl = c.nu / sheared;
  const auto cube = [](double x) { return x * x * x; };
  const double alpha = 0.25 - d / h, f_b = std::min(2 * std::exp(-9 * alpha * alpha), 1.0);
  const double f_dt = 1 - std::tanh(cube(c_dt * r_dt)), f_d = std::max(1 - f_dt, f_b);
  const double f_e1 = 2 * std::exp((alpha >= 0 ? -11.09 : -9.0) * alpha * alpha),
               f_t = std::tanh(cube(c_t * c_t * r_dt)),
               f_l = std::tanh(std::pow(c_l * c_l * r_dl, 10)),
               f_e = (1 - std::max(f_t, f_l)) * std::max(f_e1 - 1, 0.0);
  const double length = f_d * (1 + f_e) * rans + (1 - f_d) * les;
  return {std::clamp(rans / std::max(length, 1e-300), 0.2, 1e4), f_d};
}

/// Share of central differences that eddies of the cells' size call for: 1 in vortices, 0 in calm
/// or only strained air.
/// @param strain2 twice the sum of the squares of the strain rates, 1/s2
/// @param slowest rate of change that counts, 1/s: the stream's speed over the vehicle's length
inline double share_of_central(const Cell& c, double strain2, double slowest) {
  constexpr double c_mu = 0.09, sharpness = 3, vortical = 2;
  const double rotation2 = std::max(2 * c.gradient2 - strain2, 0.0);
  const double rate = std::max(std::sqrt(c.gradient2), 0.1 * slowest),
               length = std::sqrt((c.nu_t + c.nu) / (std::pow(c_mu, 1.5) * rate));
  const double b =
      vortical * std::sqrt(rotation2 * std::max(strain2, rotation2)) / std::max(c.gradient2, 1e-20);
  const double g = std::tanh(b * b * b * b);
  const double a = std::max(c_des * c.largest_edge / (length * std::max(g, 1e-10)) - 0.5, 0.0);
  return 1 - std::tanh(std::pow(a, sharpness));
}

}  // namespace dunefield::iddes
