#include <dunefield/flow/turbulence/spalart_allmaras.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {
namespace {

// Spalart and Allmaras 1994.
constexpr double c_b1 = 0.1355, sigma = 2.0 / 3, c_b2 = 0.622, kappa = wall_law::kappa;
constexpr double c_w1 = c_b1 / (kappa * kappa) + (1 + c_b2) / sigma, c_w2 = 0.3, c_w3 = 2,
                 c_v1 = 7.1;
constexpr double least_vorticity = 0.3;  // of the vorticity: the modified one is kept above that

double f_v1(double chi) { return chi * chi * chi / (chi * chi * chi + c_v1 * c_v1 * c_v1); }

double vorticity(const Mat3& g) {
  return norm(Vec3{g.row[2].y - g.row[1].z, g.row[0].z - g.row[2].x, g.row[1].x - g.row[0].y});
}

/// chi of a ratio of eddy viscosity to viscosity: chi f_v1(chi), by Newton's method on its
/// logarithm.
double chi_of(double ratio) {
  double chi = std::max(1.0, ratio);
  for (int i = 0; i < 50; ++i) {
    const double c3 = c_v1 * c_v1 * c_v1, value = chi * f_v1(chi),
                 slope = 1 + 3 * c3 / (chi * chi * chi + c3);
    chi *= std::pow(ratio / value, 1 / slope);
  }
  return chi;
}

double stream_value(const FlowCase& c) {
  return c.air.kinematic_viscosity * chi_of(c.options.stream_turbulence.viscosity_ratio);
}

}  // namespace

SpalartAllmaras::SpalartAllmaras(FlowState& state)
    : s_(state),
      transport_(state, {{{&Fields::nu_tilde, stream_value(state.flow_case)}}},
                 state.flow_case.options.turbulence_source),
      vorticity_(at(state.mesh.cells)),
      wall_cells_(state),
      wall_value_(wall_cells_.count()) {}

void SpalartAllmaras::update_eddy_viscosity() {
  const StageClock::Scope timed(s_.clock, Stage::turbulence);
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    vorticity_[c] = vorticity(s_.grad_u[c]);
    s_.nu_t[c] = s_.nu_tilde[c] * f_v1(s_.nu_tilde[c] / nu);
  }
  s_.halo.refresh(s_.nu_t);
}

void SpalartAllmaras::solve(double courant) {
  const double nu = s_.flow_case.air.kinematic_viscosity;
  transport_.find_gradients();
  const StageClock::Scope timed(s_.clock, Stage::turbulence);
  for (std::size_t c = 0; c < at(s_.mesh.cells); ++c)
    transport_.gamma[0][c] = (nu + s_.nu_tilde[c]) / sigma;
  std::fill(wall_value_.begin(), wall_value_.end(), 0.0);
  wall_cells_.for_faces(
      s_, [&](std::size_t cell, double part, std::size_t i, const FlowMesh::BoundaryFace& b) {
        wall_value_[cell] += part * kappa * b.height * s_.wall_scale[i];
      });
  transport_.assemble();
  add_sources(courant);
  transport_.solve();
}

void SpalartAllmaras::add_sources(double courant) {
  const FlowMesh& m = s_.mesh;
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (std::size_t c = 0; c < at(m.own); ++c) {
    if (const int wall = wall_cells_.of(c); wall >= 0) {
      transport_.give(c, 0, wall_value_[at(wall)]);
      continue;
    }
    const double q = s_.nu_tilde[c], d = m.wall_distance[c], volume = m.volume[c];
    const double chi = q / nu, f_v2 = 1 - chi / (1 + chi * f_v1(chi)),
                 near = 1 / (kappa * kappa * d * d);
    const double modified =
        std::max({vorticity_[c] + q * f_v2 * near, least_vorticity * vorticity_[c], 1e-12});
    const double r = std::min(q * near / modified, 10.0), g = r + c_w2 * (std::pow(r, 6) - r),
                 c6 = std::pow(c_w3, 6);
    const double f_w = g * std::pow((1 + c6) / (std::pow(g, 6) + c6), 1.0 / 6);
    const double destruction = c_w1 * f_w * q / (d * d);
    const double gradient2 = norm2(transport_.gradient[0][c]);
    transport_.set(c, 0,
                   volume * (c_b1 * modified * q - destruction * q + c_b2 / sigma * gradient2),
                   transport_.rate(c, courant) + volume * 2 * destruction);
  }
}

turbulence::Equations turbulence::spalart_allmaras(FlowState& s) {
  return std::make_unique<SpalartAllmaras>(s);
}

}  // namespace dunefield
