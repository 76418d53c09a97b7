// The k-omega model of Wilcox (2006), with sustaining terms for the stream (Spalart and Rumsey
// 2007).
#include <dunefield/base/index.hpp>
#include <dunefield/flow/turbulence/k_omega.hpp>

namespace dunefield {
namespace {

// Wilcox 2006, section 4.3.1.
constexpr double alpha = 13.0 / 25, beta0 = 0.0708, beta_star = 0.09, sigma = 0.5, sigma_k = 0.6,
                 cross = 0.125, stress_limit = 7.0 / 8;

/// f_beta of the destruction of omega: below one where vortices are stretched, as in round jets.
double vortex_stretching(const Mat3& g, double omega) {
  const double trace = g.row[0].x + g.row[1].y + g.row[2].z;
  double strain[3][3], spin[3][3], sum = 0;
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) {
      strain[i][j] = 0.5 * (g.row[i][j] + g.row[j][i]) - (i == j ? 0.5 * trace : 0);
      spin[i][j] = 0.5 * (g.row[i][j] - g.row[j][i]);
    }
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j)
      for (int k = 0; k < 3; ++k) sum += spin[i][j] * spin[j][k] * strain[k][i];
  const double scale = beta_star * omega, chi = std::abs(sum) / (scale * scale * scale);
  return (1 + 85 * chi) / (1 + 100 * chi);
}

class Wilcox : public KOmega {
 public:
  explicit Wilcox(FlowState& state) : KOmega(state, beta0), cross_(at(state.mesh.own)) {}

  void update_eddy_viscosity() override {
    const StageClock::Scope timed(s_.clock, Stage::turbulence);
    for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
      strain2_[c] = strain_squared(s_.grad_u[c]);
      s_.nu_t[c] =
          s_.k[c] / std::max(s_.omega[c], stress_limit * std::sqrt(strain2_[c] / beta_star));
    }
    s_.halo.refresh(s_.nu_t);
  }

 private:
  void prepare() override {
    auto& [gamma_k, gamma_omega] = transport_.gamma;
    for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
      const double nu = s_.kinematic_viscosity(c), unlimited = s_.k[c] / s_.omega[c];
      cross_[c] = cross / s_.omega[c] *
                  std::max(0.0, dot(transport_.gradient[of_k][c], transport_.gradient[of_q][c]));
      gamma_k[c] = nu + sigma_k * unlimited;
      gamma_omega[c] = nu + sigma * unlimited;
    }
    s_.halo.refresh(gamma_k);
    s_.halo.refresh(gamma_omega);
  }

  void add_sources(double courant) override {
    for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
      const double volume = s_.mesh.volume[c] * s_.weight(c), k = s_.k[c], omega = s_.omega[c],
                   pseudo_time = transport_.rate(c, courant), mean = mean_of_square(c),
                   beta = beta0 * vortex_stretching(s_.grad_u[c], omega);
      const AtWall* wall = at_wall(c);
      const double production = wall ? wall->production : s_.nu_t[c] * strain2_[c];
      transport_.set(c, of_k,
                     volume * (production - beta_star * (k * omega - stream_k() * stream_q())),
                     pseudo_time + volume * beta_star * omega);
      if (wall)
        transport_.give(c, of_q, wall->q);
      else
        transport_.set(
            c, of_q,
            volume * (alpha * omega / std::max(k, 1e-300) * production -
                      beta * mean * omega * omega + beta0 * stream_q() * stream_q() + cross_[c]),
            pseudo_time + volume * 2 * beta * mean * omega);
    }
  }

  std::vector<double> cross_;
};

}  // namespace

turbulence::Equations turbulence::wilcox(FlowState& s) { return std::make_unique<Wilcox>(s); }

}  // namespace dunefield
