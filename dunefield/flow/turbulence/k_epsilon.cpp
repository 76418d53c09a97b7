#include <dunefield/flow/turbulence/k_epsilon.hpp>

#include <algorithm>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {
namespace {

using wall_law::kappa;

constexpr double c_mu_constant = wall_law::c_mu, sigma_k = 1.0;
struct Constants {
  double c2, sigma_epsilon;
};
constexpr Constants standard_model = {1.92, 1.3}, realizable_model = {1.9, 1.2};
constexpr double c1_standard = 1.44;  // Launder and Spalding 1974
constexpr double a0 = 4.04;           // of the realizable model's C_mu
// steps than the SST model's: k and epsilon follow each other, and swing for ever where one leaps
// ahead
constexpr double shorter = 0.25;
// of epsilon, as in the SST model: keeps k from growing where the stream stagnates
constexpr double production_limit = 10;
// Wolfshtein 1969, constants of Chen and Patel 1988.
const double c_length = kappa * std::pow(c_mu_constant, -0.75), a_epsilon = 2 * c_length;
constexpr double a_mu = 70;
// of Re_y; 98 % at a fifth around it
constexpr double layer_edge = 200, layer_width = 0.2 * layer_edge / 2.2976;

double dissipation_near_wall(double k, double y, double re) {
  const double length = y * c_length * (1 - std::exp(-re / a_epsilon));
  return k * std::sqrt(k) / std::max(length, 1e-30);
}

}  // namespace

KEpsilon::KEpsilon(FlowState& state, bool realizable)
    : TwoEquations(state, true), realizable_(realizable) {}

double KEpsilon::wall_reynolds(std::size_t c) const {
  return std::sqrt(s_.k[c]) * s_.mesh.wall_distance[c] / s_.flow_case.air.kinematic_viscosity;
}

double KEpsilon::c_mu(std::size_t c) const {
  if (!realizable_) return c_mu_constant;
  const Mat3& g = s_.grad_u[c];
  double s[3][3], ss = 0, rotation = 0, triple = 0;
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) {
      s[i][j] = 0.5 * (g.row[i][j] + g.row[j][i]);
      ss += s[i][j] * s[i][j];
      rotation += 0.25 * (g.row[i][j] - g.row[j][i]) * (g.row[i][j] - g.row[j][i]);
    }
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j)
      for (int k = 0; k < 3; ++k) triple += s[i][j] * s[j][k] * s[k][i];
  const double w = triple / std::max(ss * std::sqrt(ss), 1e-300);
  const double phi = std::acos(std::clamp(std::sqrt(6.0) * w, -1.0, 1.0)) / 3,
               as = std::sqrt(6.0) * std::cos(phi);
  return 1 / (a0 + as * std::sqrt(ss + rotation) * s_.k[c] / s_.epsilon[c]);
}

void KEpsilon::update_eddy_viscosity() {
  const StageClock::Scope timed(s_.clock, Stage::turbulence);
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    strain2_[c] = strain_squared(s_.grad_u[c]);
    const double k = s_.k[c], re = wall_reynolds(c);
    // Eddies are no larger than their distance from the wall lets them be: while k and epsilon are
    // not yet in step, their quotient is anything.
    const double largest = c_mu_constant * std::sqrt(k) * s_.mesh.wall_distance[c] * c_length;
    const double away = std::min(c_mu(c) * k * k / s_.epsilon[c], largest);
    const double near = largest * (1 - std::exp(-re / a_mu));
    const double share = 0.5 * (1 + std::tanh((re - layer_edge) / layer_width));
    s_.nu_t[c] = share * away + (1 - share) * near;
  }
  s_.halo.refresh(s_.nu_t);
}

void KEpsilon::prepare() {
  const double nu = s_.flow_case.air.kinematic_viscosity,
               sigma_epsilon = (realizable_ ? realizable_model : standard_model).sigma_epsilon;
  for (std::size_t c = 0; c < at(s_.mesh.cells); ++c)
    transport_.gamma[of_k][c] = nu + s_.nu_t[c] / sigma_k,
    transport_.gamma[of_q][c] = nu + s_.nu_t[c] / sigma_epsilon;
}

double KEpsilon::wall_value(std::size_t c, double y, double scale) const {
  const double nu = s_.flow_case.air.kinematic_viscosity, re = std::sqrt(s_.k[c]) * y / nu;
  const double in_sublayer = std::exp(-scale * y / nu / 11),
               share = (1 - in_sublayer) * (1 - in_sublayer);
  // u*^3 / (kappa y) with one of the u*^2 as C_mu^1/2 k: so that k in the cell has a sink that
  // grows with it.
  const double logarithmic = std::sqrt(c_mu_constant) * s_.k[c] * scale / (kappa * y);
  return share * logarithmic + (1 - share) * dissipation_near_wall(s_.k[c], y, re);
}

void KEpsilon::add_sources(double courant) {
  const double nu = s_.flow_case.air.kinematic_viscosity,
               c2 = (realizable_ ? realizable_model : standard_model).c2;
  const double stream_loss =
      realizable_ ? c2 * stream_q() * stream_q() / (stream_k() + std::sqrt(nu * stream_q()))
                  : c2 * stream_q() * stream_q() / stream_k();
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    const double volume = s_.mesh.volume[c], k = s_.k[c],
                 pseudo_time = transport_.rate(c, shorter * courant), re = wall_reynolds(c);
    const AtWall* wall = at_wall(c);
    const bool given = wall || re < layer_edge;
    const double epsilon = wall    ? wall->q
                           : given ? dissipation_near_wall(k, s_.mesh.wall_distance[c], re)
                                   : s_.epsilon[c];
    const double resolved = std::min(s_.nu_t[c] * strain2_[c], production_limit * epsilon);
    transport_.set(c, of_k, volume * ((wall ? wall->production : resolved) - epsilon + stream_q()),
                   pseudo_time + volume * epsilon / k);
    if (given) {
      transport_.give(c, of_q, epsilon);
    } else {
      const double strain = std::sqrt(strain2_[c]), eta = strain * k / epsilon;
      const double gain = realizable_ ? std::max(0.43, eta / (eta + 5)) * strain * epsilon
                                      : c1_standard * resolved * epsilon / k;
      const double loss = c2 * epsilon / (realizable_ ? k + std::sqrt(nu * epsilon) : k);
      transport_.set(c, of_q, volume * (gain - loss * epsilon + stream_loss),
                     pseudo_time + volume * 2 * loss);
    }
  }
}

turbulence::Equations turbulence::k_epsilon(FlowState& s) {
  return std::make_unique<KEpsilon>(s, false);
}
turbulence::Equations turbulence::realizable_k_epsilon(FlowState& s) {
  return std::make_unique<KEpsilon>(s, true);
}

}  // namespace dunefield
