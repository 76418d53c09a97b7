// Law of the wall for the velocity.
#pragma once

#include <cmath>

namespace dunefield::wall_law {

constexpr double kappa = 0.41;
constexpr double c_mu = 0.09;

/// The logarithm's argument and its derivative by y+. Rough walls are given by the height of sand grains, `grain` = k_s u* / nu:
/// the argument is divided by 1 + 0.26 k_s+ (Grigson 1992), the smooth law for small grains and Nikuradse's 8.5 for large ones;
/// its first term, one on a smooth wall, dies out above the grains.
struct LogArgument {
  double value, slope;
};
inline LogArgument log_argument(double y_plus, double grain) {
  const double divisor = 1 + std::exp(kappa * (5.2 - 8.5)) * grain, a = kappa * y_plus / divisor, smooth = 1 / divisor;
  const double dying = (1 - smooth) * std::exp(-a);
  return {a + smooth + dying, kappa / divisor * (1 - dying)};
}

/// u+ of y+ from the wall to the logarithmic layer (Reichardt 1951; constant for kappa 0.41, B 5.2).
inline double u_plus(double y_plus, double grain = 0) {
  constexpr double c = 7.37;
  return std::log(log_argument(y_plus, grain).value) / kappa + c * (1 - std::exp(-y_plus / 11) - y_plus / 11 * std::exp(-y_plus / 3));
}

/// y+ (du+/dy+) / u+: how much of the slip speed a straight line with the profile's slope at y loses on its way to
/// the wall. One in the sublayer, about 1 / (kappa u+) in the logarithmic layer.
inline double slope_share(double y_plus, double grain = 0) {
  constexpr double c = 7.37;
  if (y_plus < 1e-3) return 1;
  const LogArgument log = log_argument(y_plus, grain);
  const double slope = log.slope / (kappa * log.value) + c * (std::exp(-y_plus / 11) / 11 - std::exp(-y_plus / 3) * (1.0 / 11 - y_plus / 33));
  return y_plus * slope / u_plus(y_plus, grain);
}

/// Friction velocity of a boundary layer in equilibrium with this slip speed at y, from the law itself.
/// @param grain_height of the wall's sand grains, m
inline double friction_velocity(double slip_speed, double y, double nu, double grain_height = 0) {
  double u_tau = std::sqrt(nu * slip_speed / y);
  const int steps = grain_height > 0 ? 8 : 4;
  for (int i = 0; i < steps; ++i) {
    const double y_plus = u_tau * y / nu, grain = u_tau * grain_height / nu;
    if (y_plus < 1e-3) break;
    // Newton's method on the logarithms of u_tau u+(y+) = slip speed, whose derivative is about 1 + slope_share.
    u_tau *= std::pow(slip_speed / (u_tau * u_plus(y_plus, grain)), 1 / (1 + slope_share(y_plus, grain)));
  }
  return u_tau;
}

/// Velocity scale of the wall law: the mean of the fourth powers of c_mu^1/4 sqrt(k), which survives where the shear
/// vanishes (separation), and of u_tau, which survives where k does (young boundary layers).
inline double velocity_scale(double k, double slip_speed, double y, double nu, double grain_height = 0) {
  const double u_tau = friction_velocity(slip_speed, y, nu, grain_height);
  const double shear4 = u_tau * u_tau * u_tau * u_tau, turbulent4 = c_mu * k * k;
  return std::sqrt(std::sqrt(0.5 * (shear4 + turbulent4)));
}

/// Shear stress over density divided by the slip speed, m/s: nu / y in the sublayer, scale / u+ beyond.
inline double shear_factor(double scale, double y, double nu, double grain_height = 0) {
  const double y_plus = scale * y / nu;
  return y_plus < 1e-3 ? nu / y : scale / u_plus(y_plus, scale * grain_height / nu);
}

}  // namespace dunefield::wall_law
