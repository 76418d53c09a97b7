#include <dunefield/flow/turbulence/sst.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/turbulence/iddes.hpp>
#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {
namespace {

// Menter, Kuntz, Langtry 2003, table of constants; index 1 near the wall, 2 away from it.
constexpr double beta_star = 0.09, a1 = 0.31;
constexpr double sigma_k1 = 0.85, sigma_k2 = 1.0;
constexpr double sigma_omega1 = 0.5, sigma_omega2 = 0.856;
constexpr double beta1 = 0.075, beta2 = 0.0828;
constexpr double alpha1 = 5.0 / 9, alpha2 = 0.44;
constexpr double production_limit = 10;  // of beta* k omega
constexpr double cross_diffusion_floor = 1e-10;

/// tanh of a positive number; to the last bit it is the number itself up to 1e-8, and one from 20
/// on, where nearly all cells are.
double blending(double x) { return x < 1e-8 ? x : x < 20 ? std::tanh(x) : 1; }
double blend(double f1, double one, double two) { return f1 * one + (1 - f1) * two; }

}  // namespace

Sst::Sst(FlowState& state, bool resolves)
    : KOmega(state, beta1),
      resolves_(resolves),
      f1_(at(state.mesh.cells)),
      cross_(at(state.mesh.cells)) {}

void Sst::find_scales() {
  const FlowMesh& m = s_.mesh;
  if (largest_edge_.empty()) {
    // Twice the farthest face: the edge of a cube, the longest one of a brick.
    largest_edge_.assign(at(m.own), 0);
    const auto reach = [&](int c, const Vec3& face) {
      if (c < m.own)
        largest_edge_[at(c)] = std::max(largest_edge_[at(c)], 2 * norm(face - m.centre[at(c)]));
    };
    for (std::size_t f = 0; f < m.faces(); ++f) {
      const Vec3 x = m.centre[at(m.below[f])] + m.between(f) * (1 - m.weight[f]);
      reach(m.below[f], x), reach(m.above[f], x);
    }
    for (const auto& b : m.boundary_faces) reach(b.cell, b.centre);
    destruction_.assign(at(m.own), 1), s_.central.assign(at(m.cells), 0);
  }
  constexpr double most_central = 0.95;  // what is left damps what the cells cannot carry
  const double slowest = s_.flow_case.reference_speed / s_.flow_case.reference_length;
  for (std::size_t c = 0; c < at(m.own); ++c) {
    double gradient2 = 0;
    for (const Vec3& row : s_.grad_u[c].row) gradient2 += norm2(row);
    const iddes::Cell cell{s_.k[c],    s_.omega[c],        s_.kinematic_viscosity(c),
                           s_.nu_t[c], m.wall_distance[c], largest_edge_[c],
                           gradient2};
    const iddes::Scales scales = iddes::scales_of(cell);
    destruction_[c] = scales.destruction;
    s_.central[c] =
        most_central * (1 - scales.modelled) * iddes::share_of_central(cell, strain2_[c], slowest);
  }
  s_.halo.refresh(s_.central);
}

void Sst::update_eddy_viscosity() {
  const StageClock::Scope timed(s_.clock, Stage::turbulence);
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    const double nu = s_.kinematic_viscosity(c);
    strain2_[c] = strain_squared(s_.grad_u[c]);
    const double y = s_.mesh.wall_distance[c], k = s_.k[c], omega = s_.omega[c];
    const double arg2 =
        std::max(2 * std::sqrt(k) / (beta_star * omega * y), 500 * nu / (y * y * omega));
    const double f2 = blending(arg2 * arg2);
    s_.nu_t[c] = a1 * k / std::max(a1 * omega, std::sqrt(strain2_[c]) * f2);
  }
  if (resolves_ && s_.time.active()) find_scales();
  s_.halo.refresh(s_.nu_t);
}

void Sst::prepare() {
  auto& [gamma_k, gamma_omega] = transport_.gamma;
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    const double nu = s_.kinematic_viscosity(c);
    const double y = s_.mesh.wall_distance[c], k = s_.k[c], omega = s_.omega[c];
    cross_[c] =
        2 * sigma_omega2 / omega * dot(transport_.gradient[of_k][c], transport_.gradient[of_q][c]);
    const double positive = std::max(cross_[c], cross_diffusion_floor);
    const double arg1 =
        std::min(std::max(std::sqrt(k) / (beta_star * omega * y), 500 * nu / (y * y * omega)),
                 4 * sigma_omega2 * k / (positive * y * y));
    f1_[c] = blending(arg1 * arg1 * arg1 * arg1);
    gamma_k[c] = nu + blend(f1_[c], sigma_k1, sigma_k2) * s_.nu_t[c];
    gamma_omega[c] = nu + blend(f1_[c], sigma_omega1, sigma_omega2) * s_.nu_t[c];
  }
  s_.halo.refresh(gamma_k);
  s_.halo.refresh(gamma_omega);
}

void Sst::add_sources(double courant) {
  const double sustained = stream_k() * stream_q();
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    const double volume = s_.mesh.volume[c] * s_.weight(c), k = s_.k[c], omega = s_.omega[c],
                 pseudo_time = transport_.rate(c, courant);
    const double beta = blend(f1_[c], beta1, beta2), alpha = blend(f1_[c], alpha1, alpha2);
    const double most = production_limit * beta_star * k * omega;
    const AtWall* wall = at_wall(c);
    const double production = wall ? wall->production : std::min(s_.nu_t[c] * strain2_[c], most);
    const double omega_production =
        alpha * std::min(strain2_[c], most / std::max(s_.nu_t[c], 1e-300));
    const double cross = (1 - f1_[c]) * cross_[c], mean = mean_of_square(c);
    const double shorter = destruction_.empty() ? 1.0 : destruction_[c];
    transport_.set(c, of_k, volume * (production - beta_star * (k * omega * shorter - sustained)),
                   pseudo_time + volume * beta_star * omega * shorter);
    if (wall)
      transport_.give(c, of_q, wall->q);
    else
      transport_.set(
          c, of_q,
          volume *
              (omega_production - beta * (mean * omega * omega - stream_q() * stream_q()) + cross),
          pseudo_time + volume * (2 * beta * mean * omega + std::max(-cross, 0.0) / omega));
  }
}

turbulence::Equations turbulence::sst(FlowState& s) { return std::make_unique<Sst>(s, false); }
turbulence::Equations turbulence::sst_iddes(FlowState& s) { return std::make_unique<Sst>(s, true); }

}  // namespace dunefield
