#include <dunefield/flow/sst.hpp>

#include <dunefield/flow/wall_law.hpp>

namespace dunefield {
namespace {

// Menter, Kuntz, Langtry 2003, table of constants; index 1 near the wall, 2 away from it.
constexpr double beta_star = 0.09, a1 = 0.31;
constexpr double sigma_k1 = 0.85, sigma_k2 = 1.0;
constexpr double sigma_omega1 = 0.5, sigma_omega2 = 0.856;
constexpr double beta1 = 0.075, beta2 = 0.0828;
constexpr double alpha1 = 5.0 / 9, alpha2 = 0.44;
constexpr double production_limit = 10;      // of beta* k omega
constexpr double cross_diffusion_floor = 1e-10;

std::size_t at(int i) { return static_cast<std::size_t>(i); }
double blend(double f1, double one, double two) { return f1 * one + (1 - f1) * two; }

/// 2 S_ij S_ij
double strain_squared(const Mat3& g) {
  const double xx = g.row[0].x, yy = g.row[1].y, zz = g.row[2].z;
  const double xy = g.row[0].y + g.row[1].x, xz = g.row[0].z + g.row[2].x, yz = g.row[1].z + g.row[2].y;
  return 2 * (xx * xx + yy * yy + zz * zz) + xy * xy + xz * xz + yz * yz;
}

}  // namespace

Sst::Sst(FlowState& state) : s_(state) {
  const std::size_t cells = at(s_.mesh.cells);
  const FlowOptions& o = s_.flow_case.options;
  const double fluctuation = o.stream_turbulence.intensity * s_.flow_case.reference_speed;
  stream_k_ = 1.5 * fluctuation * fluctuation;
  stream_omega_ = stream_k_ / (o.stream_turbulence.viscosity_ratio * s_.flow_case.air.kinematic_viscosity);
  grad_k_.resize(cells), grad_omega_.resize(cells);
  for (auto* v : {&strain2_, &f1_, &cross_, &gamma_k_, &gamma_omega_, &wall_omega_, &wall_production_, &wall_share_, &wall_area_, &rhs_k_, &rhs_omega_,
                  &delta_k_, &delta_omega_, &outflux_})
    v->resize(cells);
  rhs_.resize(cells), diagonal_.resize(cells);
  matrix_k_.resize(s_.mesh.graph), matrix_omega_.resize(s_.mesh.graph);
}

void Sst::start() {
  std::fill(s_.k.begin(), s_.k.end(), stream_k_);
  std::fill(s_.omega.begin(), s_.omega.end(), stream_omega_);
}

void Sst::update_eddy_viscosity() {
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    strain2_[c] = strain_squared(s_.grad_u[c]);
    const double y = s_.mesh.wall_distance[c], k = s_.k[c], omega = s_.omega[c];
    const double arg2 = std::max(2 * std::sqrt(k) / (beta_star * omega * y), 500 * nu / (y * y * omega));
    const double f2 = std::tanh(arg2 * arg2);
    s_.nu_t[c] = a1 * k / std::max(a1 * omega, std::sqrt(strain2_[c]) * f2);
  }
  s_.halo.refresh(s_.nu_t);
}

/// F1, the cross diffusion and the diffusivities of both equations.
void Sst::blend() {
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c) {
    const double y = s_.mesh.wall_distance[c], k = s_.k[c], omega = s_.omega[c];
    cross_[c] = 2 * sigma_omega2 / omega * dot(grad_k_[c], grad_omega_[c]);
    const double positive = std::max(cross_[c], cross_diffusion_floor);
    const double arg1 = std::min(std::max(std::sqrt(k) / (beta_star * omega * y), 500 * nu / (y * y * omega)), 4 * sigma_omega2 * k / (positive * y * y));
    f1_[c] = std::tanh(std::pow(arg1, 4));
    gamma_k_[c] = nu + dunefield::blend(f1_[c], sigma_k1, sigma_k2) * s_.nu_t[c];
    gamma_omega_[c] = nu + dunefield::blend(f1_[c], sigma_omega1, sigma_omega2) * s_.nu_t[c];
  }
  s_.halo.refresh(gamma_k_);
  s_.halo.refresh(gamma_omega_);
}

/// Omega, production and its share by the wall law in cells at walls: area means over the cell's wall faces.
void Sst::wall_cells() {
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (auto* v : {&wall_omega_, &wall_production_, &wall_share_, &wall_area_}) std::fill(v->begin(), v->end(), 0.0);
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != BoundaryKind::wall) return;
    const auto c = at(b.cell);
    const double y = b.height, scale = s_.wall_scale[i];
    const double viscous = 6 * nu / (beta1 * y * y), logarithmic = scale / (std::sqrt(beta_star) * wall_law::kappa * y);
    wall_omega_[c] += b.size * std::sqrt(viscous * viscous + logarithmic * logarithmic);
    const double stress = s_.wall_factor[i] * norm(s_.wall_slip[i]);
    // In the logarithmic layer the velocity gradient is u* / (kappa y); in the sublayer the resolved strain is right.
    const double share = std::pow(1 - std::exp(-scale * y / nu / 11), 2);
    wall_share_[c] += b.size * share;
    wall_production_[c] += b.size * stress * scale / (wall_law::kappa * y);
    wall_area_[c] += b.size;
  });
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c)
    if (wall_area_[c] > 0)
      for (auto* v : {&wall_omega_, &wall_production_, &wall_share_}) (*v)[c] /= wall_area_[c];
}

void Sst::solve(double courant) {
  s_.gradients.of_scalar(s_.k, grad_k_);
  s_.gradients.of_scalar(s_.omega, grad_omega_);
  s_.halo.refresh(grad_k_);
  s_.halo.refresh(grad_omega_);
  blend();
  wall_cells();
  assemble(courant);
  add_change(s_, matrix_k_, rhs_k_, delta_k_, s_.k);
  add_change(s_, matrix_omega_, rhs_omega_, delta_omega_, s_.omega);
}

void Sst::assemble(double courant) {
  std::fill(rhs_.begin(), rhs_.end(), Two{});
  std::fill(diagonal_.begin(), diagonal_.end(), Two{});
  std::fill(outflux_.begin(), outflux_.end(), 0.0);
  matrix_k_.set_zero(), matrix_omega_.set_zero();
  add_interior();
  add_boundaries();
  add_sources(courant);
}

void Sst::add_interior() {
  const FlowMesh& m = s_.mesh;
  const std::size_t nf = m.face.size();
  for (std::size_t f = 0; f < nf; ++f) {
    const TransportFace t(m, f, s_.flux[f]);
    const auto equation = [&](const std::vector<double>& q, const std::vector<Vec3>& grad, const std::vector<double>& gamma, double Two::*part, Matrix<float>& matrix) {
      const TransportFace::Carried carried = t.carried(q, grad, gamma);
      rhs_[t.a].*part += carried.into_a, rhs_[t.b].*part += carried.into_b;
      matrix.entry[at(m.slots.of_below[f])] -= static_cast<float>(carried.diffusion + t.out_b);
      matrix.entry[at(m.slots.of_above[f])] -= static_cast<float>(carried.diffusion + t.out_a);
      diagonal_[t.a].*part += carried.diffusion + t.out_b, diagonal_[t.b].*part += carried.diffusion + t.out_a;
    };
    equation(s_.k, grad_k_, gamma_k_, &Two::k, matrix_k_);
    equation(s_.omega, grad_omega_, gamma_omega_, &Two::omega, matrix_omega_);
    outflux_[t.a] += t.out_a, outflux_[t.b] += t.out_b;
  }
}

void Sst::add_boundaries() {
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    const double phi = s_.boundary_flux[i];
    outflux_[c] += std::max(phi, 0.0);
    if (bc.kind != BoundaryKind::stream && !(bc.kind == BoundaryKind::outflow && phi < 0)) return;
    const double convection = std::max(-phi, 0.0);
    const double dk = bc.kind == BoundaryKind::stream ? gamma_k_[c] * b.size / b.height : 0;
    const double dw = bc.kind == BoundaryKind::stream ? gamma_omega_[c] * b.size / b.height : 0;
    rhs_[c].k += (dk + convection) * (stream_k_ - s_.k[c]);
    rhs_[c].omega += (dw + convection) * (stream_omega_ - s_.omega[c]);
    diagonal_[c].k += dk + convection;
    diagonal_[c].omega += dw + convection;
  });
}

void Sst::add_sources(double courant) {
  const FlowMesh& m = s_.mesh;
  for (std::size_t c = 0; c < at(m.own); ++c) {
    const double volume = m.volume[c], k = s_.k[c], omega = s_.omega[c];
    const double beta = dunefield::blend(f1_[c], beta1, beta2), alpha = dunefield::blend(f1_[c], alpha1, alpha2);
    const double most = production_limit * beta_star * k * omega;
    double production = std::min(s_.nu_t[c] * strain2_[c], most);
    const double omega_production = alpha * std::min(strain2_[c], most / std::max(s_.nu_t[c], 1e-300));
    if (wall_area_[c] > 0) production = wall_share_[c] * wall_production_[c] + (1 - wall_share_[c]) * production;
    const double cross = (1 - f1_[c]) * cross_[c];
    const double rate = std::max(outflux_[c], turbulence_speed_floor * s_.flow_case.reference_speed * std::pow(volume, 2.0 / 3)) / courant;

    rhs_k_[c] = rhs_[c].k + volume * (production - beta_star * (k * omega - stream_k_ * stream_omega_));
    matrix_k_.diagonal[c] = static_cast<float>(diagonal_[c].k + rate + volume * beta_star * omega);

    if (wall_area_[c] > 0) {
      // Omega is given in wall cells.
      rhs_omega_[c] = wall_omega_[c] - omega;
      matrix_omega_.diagonal[c] = 1;
      for (int e = m.graph.start[c]; e < m.graph.start[c + 1]; ++e) matrix_omega_.entry[at(e)] = 0;
    } else {
      rhs_omega_[c] = rhs_[c].omega + volume * (omega_production - beta * (omega * omega - stream_omega_ * stream_omega_) + cross);
      matrix_omega_.diagonal[c] = static_cast<float>(diagonal_[c].omega + rate + volume * (2 * beta * omega + std::max(-cross, 0.0) / omega));
    }
  }
}

}  // namespace dunefield
