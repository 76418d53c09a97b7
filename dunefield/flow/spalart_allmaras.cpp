#include <dunefield/flow/spalart_allmaras.hpp>

#include <dunefield/flow/wall_law.hpp>

namespace dunefield {
namespace {

// Spalart and Allmaras 1994.
constexpr double c_b1 = 0.1355, sigma = 2.0 / 3, c_b2 = 0.622, kappa = wall_law::kappa;
constexpr double c_w1 = c_b1 / (kappa * kappa) + (1 + c_b2) / sigma, c_w2 = 0.3, c_w3 = 2,
                 c_v1 = 7.1;
constexpr double least_vorticity = 0.3;  // of the vorticity: the modified one is kept above that

std::size_t at(int i) { return static_cast<std::size_t>(i); }

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

}  // namespace

SpalartAllmaras::SpalartAllmaras(FlowState& state) : s_(state) {
  const std::size_t cells = at(s_.mesh.cells);
  stream_ = s_.flow_case.air.kinematic_viscosity *
            chi_of(s_.flow_case.options.stream_turbulence.viscosity_ratio);
  grad_.resize(cells);
  for (auto* v :
       {&vorticity_, &gamma_, &wall_value_, &wall_area_, &rhs_, &diagonal_, &delta_, &outflux_})
    v->resize(cells);
  matrix_.resize(s_.mesh.graph);
}

void SpalartAllmaras::start() { std::fill(s_.nu_tilde.begin(), s_.nu_tilde.end(), stream_); }

void SpalartAllmaras::update_eddy_viscosity() {
  const StageClock::Scope timed(s_.clock, Stage::turbulence);
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    vorticity_[c] = vorticity(s_.grad_u[c]);
    s_.nu_t[c] = s_.nu_tilde[c] * f_v1(s_.nu_tilde[c] / nu);
  }
  s_.halo.refresh(s_.nu_t);
}

/// Area means over a cell's wall faces.
void SpalartAllmaras::wall_cells() {
  std::fill(wall_value_.begin(), wall_value_.end(), 0.0);
  std::fill(wall_area_.begin(), wall_area_.end(), 0.0);
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != BoundaryKind::wall) return;
    wall_value_[at(b.cell)] += b.size * kappa * b.height * s_.wall_scale[i];
    wall_area_[at(b.cell)] += b.size;
  });
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c)
    if (wall_area_[c] > 0) wall_value_[c] /= wall_area_[c];
}

void SpalartAllmaras::solve(double courant) {
  const double nu = s_.flow_case.air.kinematic_viscosity;
  {
    const StageClock::Scope timed(s_.clock, Stage::gradients);
    s_.gradients.of_scalar(s_.nu_tilde, grad_);
    s_.halo.refresh(grad_);
  }
  const StageClock::Scope timed(s_.clock, Stage::turbulence);
  for (std::size_t c = 0; c < at(s_.mesh.cells); ++c) gamma_[c] = (nu + s_.nu_tilde[c]) / sigma;
  wall_cells();
  assemble(courant);
  gauss_seidel(s_.mesh.graph, matrix_, rhs_, delta_, s_.flow_case.options.turbulence_sweeps,
               s_.halo);
  for (std::size_t c = 0; c < at(s_.mesh.cells); ++c)
    s_.nu_tilde[c] = never_negative(s_.nu_tilde[c], delta_[c]);
}

void SpalartAllmaras::assemble(double courant) {
  const FlowMesh& m = s_.mesh;
  for (auto* v : {&rhs_, &diagonal_, &outflux_}) std::fill(v->begin(), v->end(), 0.0);
  for (std::size_t f = 0; f < m.faces(); ++f) {
    const TransportFace t(m, f, s_.flux[f]);
    const TransportFace::Carried q = t.carried(s_.nu_tilde, grad_, gamma_);
    rhs_[t.a] += q.into_a, rhs_[t.b] += q.into_b;
    matrix_.entry[at(m.slots.of_below[f])] = -static_cast<float>(q.diffusion + t.out_b);
    matrix_.entry[at(m.slots.of_above[f])] = -static_cast<float>(q.diffusion + t.out_a);
    diagonal_[t.a] += q.diffusion + t.out_b, diagonal_[t.b] += q.diffusion + t.out_a;
    outflux_[t.a] += t.out_a, outflux_[t.b] += t.out_b;
  }
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    const double phi = s_.boundary_flux[i];
    outflux_[c] += std::max(phi, 0.0);
    if (bc.kind != BoundaryKind::stream && !(bc.kind == BoundaryKind::outflow && phi < 0)) return;
    const double exchange =
        std::max(-phi, 0.0) + (bc.kind == BoundaryKind::stream ? gamma_[c] * b.size / b.height : 0);
    rhs_[c] += exchange * (stream_ - s_.nu_tilde[c]);
    diagonal_[c] += exchange;
  });
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (std::size_t c = 0; c < at(m.own); ++c) {
    const double q = s_.nu_tilde[c], d = m.wall_distance[c], volume = m.volume[c];
    if (wall_area_[c] > 0) {
      rhs_[c] = wall_value_[c] - q;
      matrix_.diagonal[c] = 1;
      for (int e = m.graph.start[c]; e < m.graph.start[c + 1]; ++e) matrix_.entry[at(e)] = 0;
      continue;
    }
    const double chi = q / nu, f_v2 = 1 - chi / (1 + chi * f_v1(chi)),
                 near = 1 / (kappa * kappa * d * d);
    const double modified =
        std::max({vorticity_[c] + q * f_v2 * near, least_vorticity * vorticity_[c], 1e-12});
    const double r = std::min(q * near / modified, 10.0), g = r + c_w2 * (std::pow(r, 6) - r),
                 c6 = std::pow(c_w3, 6);
    const double f_w = g * std::pow((1 + c6) / (std::pow(g, 6) + c6), 1.0 / 6);
    const double destruction = c_w1 * f_w * q / (d * d);
    const double rate = std::max(outflux_[c], turbulence_speed_floor *
                                                  s_.flow_case.reference_speed * s_.mesh.side2[c]) /
                        courant;
    rhs_[c] += volume * (c_b1 * modified * q - destruction * q + c_b2 / sigma * norm2(grad_[c]));
    matrix_.diagonal[c] = static_cast<float>(diagonal_[c] + rate + volume * 2 * destruction);
  }
}

}  // namespace dunefield
