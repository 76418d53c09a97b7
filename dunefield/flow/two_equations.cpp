#include <dunefield/flow/two_equations.hpp>

#include <dunefield/flow/wall_law.hpp>

namespace dunefield {
namespace {

std::size_t at(int i) { return static_cast<std::size_t>(i); }

}  // namespace

double strain_squared(const Mat3& g) {
  const double xx = g.row[0].x, yy = g.row[1].y, zz = g.row[2].z;
  const double xy = g.row[0].y + g.row[1].x, xz = g.row[0].z + g.row[2].x, yz = g.row[1].z + g.row[2].y;
  return 2 * (xx * xx + yy * yy + zz * zz) + xy * xy + xz * xz + yz * yz;
}

TwoEquations::TwoEquations(FlowState& state, bool dissipation) : s_(state), dissipation_(dissipation) {
  const std::size_t cells = at(s_.mesh.cells);
  const FlowOptions& o = s_.flow_case.options;
  const double fluctuation = o.stream_turbulence.intensity * s_.flow_case.reference_speed;
  stream_k_ = 1.5 * fluctuation * fluctuation;
  const double omega = stream_k_ / (o.stream_turbulence.viscosity_ratio * s_.flow_case.air.kinematic_viscosity);
  stream_q_ = dissipation ? wall_law::c_mu * stream_k_ * omega : omega;
  grad_k_.resize(cells), grad_q_.resize(cells);
  for (auto* v : {&strain2_, &gamma_k_, &gamma_q_, &wall_q_, &wall_production_, &wall_share_, &wall_area_, &rhs_k_, &rhs_q_, &delta_k_, &delta_q_, &outflux_}) v->resize(cells);
  rhs_.resize(cells), diagonal_.resize(cells);
  if (o.turbulence_source) given_.resize(cells);
  for (std::size_t c = 0; c < given_.size(); ++c) {
    const auto [k, q] = o.turbulence_source(s_.mesh.centre[c]);
    given_[c] = {k * s_.mesh.volume[c], q * s_.mesh.volume[c]};
  }
  matrix_k_.resize(s_.mesh.graph), matrix_q_.resize(s_.mesh.graph);
}

void TwoEquations::start() {
  std::fill(s_.k.begin(), s_.k.end(), stream_k_);
  std::fill(s_.omega.begin(), s_.omega.end(), stream_q_);
}

/// q, production and its share by the wall law in cells at walls: area means over the cell's wall faces.
void TwoEquations::wall_cells() {
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (auto* v : {&wall_q_, &wall_production_, &wall_share_, &wall_area_}) std::fill(v->begin(), v->end(), 0.0);
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != BoundaryKind::wall) return;
    const auto c = at(b.cell);
    const double y = b.height, scale = s_.wall_scale[i];
    const double stress = s_.wall_factor[i] * norm(s_.wall_slip[i]);
    // In the logarithmic layer the velocity gradient is u* / (kappa y); in the sublayer the resolved strain is right.
    const double share = std::pow(1 - std::exp(-scale * y / nu / 11), 2);
    wall_q_[c] += b.size * wall_value(c, y, scale, share);
    wall_share_[c] += b.size * share;
    wall_production_[c] += b.size * stress * scale / (wall_law::kappa * y);
    wall_area_[c] += b.size;
  });
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c)
    if (wall_area_[c] > 0)
      for (auto* v : {&wall_q_, &wall_production_, &wall_share_}) (*v)[c] /= wall_area_[c];
}

void TwoEquations::solve(double courant) {
  s_.gradients.of_scalar(s_.k, grad_k_);
  s_.gradients.of_scalar(s_.omega, grad_q_);
  s_.halo.refresh(grad_k_);
  s_.halo.refresh(grad_q_);
  prepare();
  wall_cells();
  assemble();
  add_sources(courant);
  add_change(s_, matrix_k_, rhs_k_, delta_k_, s_.k);
  add_change(s_, matrix_q_, rhs_q_, delta_q_, s_.omega);
}

void TwoEquations::assemble() {
  if (given_.empty()) std::fill(rhs_.begin(), rhs_.end(), Two{});
  else rhs_ = given_;
  std::fill(diagonal_.begin(), diagonal_.end(), Two{});
  std::fill(outflux_.begin(), outflux_.end(), 0.0);
  matrix_k_.set_zero(), matrix_q_.set_zero();
  const FlowMesh& m = s_.mesh;
  const std::size_t nf = m.face.size();
  for (std::size_t f = 0; f < nf; ++f) {
    const TransportFace t(m, f, s_.flux[f]);
    const auto equation = [&](const std::vector<double>& q, const std::vector<Vec3>& grad, const std::vector<double>& gamma, double Two::*part, Matrix<float>& matrix, double slope) {
      const TransportFace::Carried carried = t.carried(q, grad, gamma, slope);
      rhs_[t.a].*part += carried.into_a, rhs_[t.b].*part += carried.into_b;
      matrix.entry[at(m.slots.of_below[f])] -= static_cast<float>(carried.diffusion + t.out_b);
      matrix.entry[at(m.slots.of_above[f])] -= static_cast<float>(carried.diffusion + t.out_a);
      diagonal_[t.a].*part += carried.diffusion + t.out_b, diagonal_[t.b].*part += carried.diffusion + t.out_a;
    };
    equation(s_.k, grad_k_, gamma_k_, &Two::k, matrix_k_, 1);
    equation(s_.omega, grad_q_, gamma_q_, &Two::q, matrix_q_, dissipation_ ? 1 : t.slope_of_inverse_square(s_.omega));
    outflux_[t.a] += t.out_a, outflux_[t.b] += t.out_b;
  }
  add_boundaries();
}

void TwoEquations::add_boundaries() {
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    const double phi = s_.boundary_flux[i];
    outflux_[c] += std::max(phi, 0.0);
    if (bc.kind != BoundaryKind::stream && !(bc.kind == BoundaryKind::outflow && phi < 0)) return;
    const double convection = std::max(-phi, 0.0);
    const double dk = bc.kind == BoundaryKind::stream ? gamma_k_[c] * b.size / b.height : 0;
    const double dq = bc.kind == BoundaryKind::stream ? gamma_q_[c] * b.size / b.height : 0;
    rhs_[c].k += (dk + convection) * (stream_k_ - s_.k[c]);
    rhs_[c].q += (dq + convection) * (stream_q_ - s_.omega[c]);
    diagonal_[c].k += dk + convection;
    diagonal_[c].q += dq + convection;
  });
}

double TwoEquations::rate(std::size_t c, double courant) const {
  return std::max(outflux_[c], turbulence_speed_floor * s_.flow_case.reference_speed * s_.mesh.side2[c]) / courant;
}

void TwoEquations::set_k(std::size_t c, double source, double diagonal) {
  rhs_k_[c] = rhs_[c].k + source;
  matrix_k_.diagonal[c] = static_cast<float>(diagonal_[c].k + diagonal);
}

void TwoEquations::set_q(std::size_t c, double source, double diagonal) {
  rhs_q_[c] = rhs_[c].q + source;
  matrix_q_.diagonal[c] = static_cast<float>(diagonal_[c].q + diagonal);
}

void TwoEquations::give_q(std::size_t c, double value) {
  rhs_q_[c] = value - s_.omega[c];
  matrix_q_.diagonal[c] = 1;
  for (int e = s_.mesh.graph.start[c]; e < s_.mesh.graph.start[c + 1]; ++e) matrix_q_.entry[at(e)] = 0;
}

}  // namespace dunefield
