// Law of the wall for the velocity.
#pragma once

#include <cmath>

namespace dunefield::wall_law {

constexpr double kappa = 0.41;  // von Karman's
constexpr double c_mu = 0.09;

/// A bump of u+ over ln y+: its height, the y+ of its top, its width.
struct Bump {
  double height = 0, top = 1, width = 1;
};

/// The profile next to a wall: Reichardt's (1951), and by how much a turbulence model's own
/// solution differs from it between the sublayer and the logarithmic layer. Only with its own
/// profile does a model give the same friction whichever y+ the first cell has.
struct Profile {
  Bump dip, rise;
};
constexpr Profile reichardt;
/// Fitted to our solution of the SST equations (Menter, Kuntz, Langtry 2003) up to y+ 300 of a
/// channel of Re_tau 20 000, where the stress is that of the wall within 1.5 %, on 270 points:
/// within 0.012 of it.
constexpr Profile sst = {.dip = {0.678, 31.6, 1.318}, .rise = {0.384, 9.23, 0.779}};

/// The logarithm's argument and its derivative by y+. Rough walls are given by the height of sand
/// grains, `grain` = k_s u* / nu: the argument is divided by 1 + 0.26 k_s+ (Grigson 1992), the
/// smooth law for small grains and Nikuradse's 8.5 for large ones; its first term, one on a smooth
/// wall, dies out above the grains.
struct LogArgument {
  double value, slope, smooth;
};
inline LogArgument log_argument(double y_plus, double grain) {
  // what follows gives the same, for two exponentials more
  if (grain == 0) return {1 + kappa * y_plus, kappa, 1};
  const double divisor = 1 + std::exp(kappa * (5.2 - 8.5)) * grain, a = kappa * y_plus / divisor,
               smooth = 1 / divisor;
  const double dying = (1 - smooth) * std::exp(-a);
  return {a + smooth + dying, kappa / divisor * (1 - dying), smooth};
}

/// u+ at y+, and y+ (du+/dy+) / u+: how much of the slip speed a straight line with the profile's
/// slope at y loses on its way to the wall. One in the sublayer, about 1 / (kappa u+) in the
/// logarithmic layer.
struct Velocity {
  double u_plus, slope_share;
};
inline Velocity velocity(const Profile& profile, double y_plus, double grain = 0) {
  if (y_plus < 1e-3) return {y_plus, 1};
  constexpr double c = 7.37;  // for kappa 0.41 and B 5.2
  const LogArgument log = log_argument(y_plus, grain);
  const double far = std::exp(-y_plus / 11), near = std::exp(-y_plus / 3);
  double u = std::log(log.value) / kappa + c * (1 - far - y_plus / 11 * near);
  double rise =
      y_plus * (log.slope / (kappa * log.value) + c * (far / 11 - near * (1.0 / 11 - y_plus / 33)));
  const auto add = [&](const Bump& bump, double sign) {
    if (bump.height == 0) return;
    const double off = std::log(y_plus / bump.top) / bump.width,
                 more = sign * log.smooth * bump.height * std::exp(-off * off);
    u += more;
    rise -= more * 2 * off / bump.width;
  };
  add(profile.rise, 1);
  add(profile.dip, -1);
  return {u, rise / u};
}

/// Friction velocity of a boundary layer in equilibrium with this slip speed at y, from the law
/// itself.
/// @param grain_height of the wall's sand grains, m
inline double friction_velocity(const Profile& profile, double slip_speed, double y, double nu,
                                double grain_height = 0) {
  double u_tau = std::sqrt(nu * slip_speed / y);
  const int steps = grain_height > 0 ? 8 : 4;
  for (int i = 0; i < steps; ++i) {
    const double y_plus = u_tau * y / nu;
    if (y_plus < 1e-3) break;
    // Newton's method on the logarithms of u_tau u+(y+) = slip speed, whose derivative is about 1 +
    // slope_share.
    const Velocity v = velocity(profile, y_plus, u_tau * grain_height / nu);
    u_tau *= std::pow(slip_speed / (u_tau * v.u_plus), 1 / (1 + v.slope_share));
  }
  return u_tau;
}

/// Velocity scale of the wall law: the mean of the fourth powers of c_mu^1/4 sqrt(k), which
/// survives where the shear vanishes (separation), and of u_tau, which survives where k does (young
/// boundary layers).
inline double velocity_scale(const Profile& profile, double k, double slip_speed, double y,
                             double nu, double grain_height = 0) {
  const double u_tau = friction_velocity(profile, slip_speed, y, nu, grain_height);
  const double shear4 = u_tau * u_tau * u_tau * u_tau, turbulent4 = c_mu * k * k;
  return std::sqrt(std::sqrt(0.5 * (shear4 + turbulent4)));
}

}  // namespace dunefield::wall_law
