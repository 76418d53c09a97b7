// Law of the wall for the velocity.
#pragma once

#include <cmath>

namespace dunefield::wall_law {

constexpr double kappa = 0.41;
constexpr double c_mu = 0.09;

/// u+ of y+ from the wall to the logarithmic layer (Reichardt 1951; constant for kappa 0.41, B 5.2).
inline double u_plus(double y_plus) {
  constexpr double c = 7.37;
  return std::log1p(kappa * y_plus) / kappa + c * (1 - std::exp(-y_plus / 11) - y_plus / 11 * std::exp(-y_plus / 3));
}

/// Velocity scale that neither vanishes where the shear does (k stays) nor where k does (the sublayer stays).
inline double velocity_scale(double k, double slip_speed, double y, double nu) {
  const double viscous2 = nu * slip_speed / y, turbulent2 = std::sqrt(c_mu) * k;
  return std::sqrt(std::sqrt(viscous2 * viscous2 + turbulent2 * turbulent2));
}

/// Shear stress over density divided by the slip speed, m/s: nu / y in the sublayer, u* / u+ beyond.
inline double shear_factor(double k, double slip_speed, double y, double nu) {
  const double scale = velocity_scale(k, slip_speed, y, nu);
  const double y_plus = scale * y / nu;
  if (y_plus < 1e-3) return nu / y;
  return scale / u_plus(y_plus);
}

}  // namespace dunefield::wall_law
