#include <dunefield/flow/two_equations.hpp>

#include <dunefield/flow/wall_law.hpp>

namespace dunefield {
namespace {

std::size_t at(int i) { return static_cast<std::size_t>(i); }

}  // namespace

double strain_squared(const Mat3& g) {
  const double xx = g.row[0].x, yy = g.row[1].y, zz = g.row[2].z;
  const double xy = g.row[0].y + g.row[1].x, xz = g.row[0].z + g.row[2].x,
               yz = g.row[1].z + g.row[2].y;
  return 2 * (xx * xx + yy * yy + zz * zz) + xy * xy + xz * xz + yz * yz;
}

TwoEquations::TwoEquations(FlowState& state, bool dissipation)
    : s_(state), dissipation_(dissipation) {
  const std::size_t cells = at(s_.mesh.cells);
  const FlowOptions& o = s_.flow_case.options;
  const double fluctuation = o.stream_turbulence.intensity * s_.flow_case.reference_speed;
  stream_k_ = 1.5 * fluctuation * fluctuation;
  const double omega =
      stream_k_ / (o.stream_turbulence.viscosity_ratio * s_.flow_case.air.kinematic_viscosity);
  stream_q_ = dissipation ? wall_law::c_mu * stream_k_ * omega : omega;
  grad_k_.resize(cells), grad_q_.resize(cells);
  for (auto* v : {&strain2_, &gamma_k_, &gamma_q_, &outflux_}) v->resize(cells);
  for (auto* v : {&rhs_, &diagonal_, &delta_}) v->resize(cells);
  if (o.turbulence_source) given_.resize(cells);
  for (std::size_t c = 0; c < given_.size(); ++c) {
    const auto [k, q] = o.turbulence_source(s_.mesh.centre[c]);
    given_[c] = {k * s_.mesh.volume[c], q * s_.mesh.volume[c]};
  }
  matrix_.resize(s_.mesh.graph);
  find_wall_cells();
}

void TwoEquations::find_wall_cells() {
  wall_cell_of_.assign(at(s_.mesh.own), -1);
  s_.for_boundary([&](std::size_t, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != BoundaryKind::wall) return;
    int& i = wall_cell_of_[at(b.cell)];
    if (i < 0) i = static_cast<int>(wall_cells_.size()), wall_cells_.push_back({b.cell});
    wall_cells_[at(i)].area += b.size;
  });
}

void TwoEquations::start() {
  std::fill(s_.k.begin(), s_.k.end(), stream_k_);
  std::fill(s_.omega.begin(), s_.omega.end(), stream_q_);
}

void TwoEquations::update_wall_cells() {
  const double nu = s_.flow_case.air.kinematic_viscosity;
  for (WallCell& w : wall_cells_) w.q = w.production = 0;
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != BoundaryKind::wall) return;
    WallCell& w = wall_cells_[at(wall_cell_of_[at(b.cell)])];
    const double y = b.height, scale = s_.wall_scale[i], part = b.size / w.area;
    const double slip = norm(s_.wall_slip[i]), strain = s_.wall_slope[i] * slip / y;
    w.q += part * wall_value(at(b.cell), y, scale);
    // Turbulent stress times velocity gradient, both of the law's profile: a straight line to the
    // wall would miss the gradient many times.
    w.production += part * std::max(s_.wall_factor[i] * slip - nu * strain, 0.0) * strain;
  });
}

void TwoEquations::solve(double courant) {
  {
    const StageClock::Scope timed(s_.clock, Stage::gradients);
    s_.gradients.of_scalars(s_.k, s_.omega, grad_k_, grad_q_);
    s_.halo.refresh(grad_k_);
    s_.halo.refresh(grad_q_);
  }
  const StageClock::Scope timed(s_.clock, Stage::turbulence);
  prepare();
  update_wall_cells();
  assemble();
  add_sources(courant);
  gauss_seidel(s_.mesh.graph, matrix_, rhs_, delta_, s_.flow_case.options.turbulence_sweeps,
               s_.halo);
  for (std::size_t c = 0; c < at(s_.mesh.cells); ++c) {
    s_.k[c] = never_negative(s_.k[c], delta_[c].k);
    s_.omega[c] = never_negative(s_.omega[c], delta_[c].q);
  }
}

void TwoEquations::assemble() {
  if (given_.empty())
    std::fill(rhs_.begin(), rhs_.end(), Pair<double>{});
  else
    rhs_ = given_;
  std::fill(diagonal_.begin(), diagonal_.end(), Pair<double>{});
  std::fill(outflux_.begin(), outflux_.end(), 0.0);
  const FlowMesh& m = s_.mesh;
  const std::size_t nf = m.faces();
  for (std::size_t f = 0; f < nf; ++f) {
    const TransportFace t(m, f, s_.flux[f]);
    const TransportFace::Carried k = t.carried(s_.k, grad_k_, gamma_k_),
                                 q = t.carried(
                                     s_.omega, grad_q_, gamma_q_,
                                     dissipation_ ? 1 : t.slope_of_inverse_square(s_.omega));
    rhs_[t.a] += {k.into_a, q.into_a}, rhs_[t.b] += {k.into_b, q.into_b};
    const Pair<double> from_b{k.diffusion + t.out_b, q.diffusion + t.out_b},
        from_a{k.diffusion + t.out_a, q.diffusion + t.out_a};
    matrix_.entry[at(m.slots.of_below[f])] = {-static_cast<float>(from_b.k),
                                              -static_cast<float>(from_b.q)};
    matrix_.entry[at(m.slots.of_above[f])] = {-static_cast<float>(from_a.k),
                                              -static_cast<float>(from_a.q)};
    diagonal_[t.a] += from_b, diagonal_[t.b] += from_a;
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
  return std::max(outflux_[c],
                  turbulence_speed_floor * s_.flow_case.reference_speed * s_.mesh.side2[c]) /
         courant;
}

void TwoEquations::set_k(std::size_t c, double source, double diagonal) {
  rhs_[c].k += source;
  matrix_.diagonal[c].k = static_cast<float>(diagonal_[c].k + diagonal);
}

void TwoEquations::set_q(std::size_t c, double source, double diagonal) {
  rhs_[c].q += source;
  matrix_.diagonal[c].q = static_cast<float>(diagonal_[c].q + diagonal);
}

void TwoEquations::give_q(std::size_t c, double value) {
  rhs_[c].q = value - s_.omega[c];
  matrix_.diagonal[c].q = 1;
  for (int e = s_.mesh.graph.start[c]; e < s_.mesh.graph.start[c + 1]; ++e)
    matrix_.entry[at(e)].q = 0;
}

}  // namespace dunefield
