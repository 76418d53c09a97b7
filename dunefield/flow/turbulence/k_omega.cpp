#include <dunefield/flow/turbulence/k_omega.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {
namespace {

constexpr double beta_star = wall_law::c_mu;
// y+ by which omega in wall cells passes from the root of squares to the sum; fitted to our
// solution of the SST model (wall_law::sst)
constexpr double root_ends = 6.5;

}  // namespace

KOmega::KOmega(FlowState& state, double beta)
    : TwoEquations(state, false), beta_(beta), height_(at(state.mesh.own)) {
  const FlowMesh& m = s_.mesh;
  std::vector<double> largest(at(m.cells), 0);
  for (std::size_t f = 0; f < m.faces(); ++f)
    for (const int c : {m.below[f], m.above[f]})
      largest[at(c)] = std::max(largest[at(c)], norm(m.area[f]));
  for (const auto& b : m.boundary_faces)
    largest[at(b.cell)] = std::max(largest[at(b.cell)], b.size);
  for (std::size_t c = 0; c < height_.size(); ++c)
    height_[c] = std::min(1.0, m.volume[c] / (largest[c] * m.wall_distance[c]));
}

/// In the sublayer omega is 6 nu / (beta y^2), and the mean of y^-4 is 1 + 5/6 (h / y)^2 times that
/// at the centre, to second order.
double KOmega::mean_of_square(std::size_t c) const {
  const double y = s_.mesh.wall_distance[c],
               in_sublayer =
                   std::min(1.0, 6 * s_.kinematic_viscosity(c) / (beta_ * y * y * s_.omega[c]));
  const double relative = in_sublayer * height_[c];
  return 1 + 5.0 / 6 * relative * relative;
}

/// The SST model's own solution: the root of both parts' squares in the sublayer (Menter, Ferreira,
/// Esch, Konno 2003), their sum in the logarithmic layer; the root everywhere leaves a third too
/// little between them, where k and friction then come out too large.
double KOmega::wall_value(std::size_t cell, double y, double scale) const {
  const double nu = s_.kinematic_viscosity(cell), r = scale * y / nu / root_ends;
  const double viscous = 6 * nu / (beta_ * y * y),
               logarithmic = scale / (std::sqrt(beta_star) * wall_law::kappa * y);
  const double n = 1 + std::exp(-r * r);
  return std::pow(std::pow(viscous, n) + std::pow(logarithmic, n), 1 / n);
}

}  // namespace dunefield
