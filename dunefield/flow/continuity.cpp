#include <dunefield/flow/continuity.hpp>

#include <dunefield/base/index.hpp>

namespace dunefield {
double outflow_g(const FlowMesh& m, const FlowMesh::BoundaryFace& b) {
  return norm2(b.area) / dot(b.area, b.centre - m.centre[at(b.cell)]);
}

double interpolated_flux(const FlowState& s, std::size_t f, const std::vector<double>& va) {
  const FlowMesh& m = s.mesh;
  const auto a = at(m.below[f]), b = at(m.above[f]);
  const double w = m.weight[f], v = 1 - w;
  const Vec3 d = m.between(f);
  const Vec3 u = (s.u[a] + s.grad_u[a] * m.along(f, a, m.skew[f])) * w +
                 (s.u[b] + s.grad_u[b] * m.along(f, b, m.skew[f])) * v;
  const double gauss =
      w * dot(s.gauss_p[a], m.along(f, a, d)) + v * dot(s.gauss_p[b], m.along(f, b, d));
  return dot(m.area[f], u) - (w * va[a] + v * va[b]) * m.g[f] * (s.p[b] - s.p[a] - gauss);
}

double outflow_flux(const FlowState& s, const FlowMesh::BoundaryFace& b,
                    const BoundaryCondition& bc, const std::vector<double>& va) {
  const auto c = at(b.cell);
  const Vec3 d = b.centre - s.mesh.centre[c];
  return dot(b.area, s.u[c]) +
         va[c] * outflow_g(s.mesh, b) * (s.p[c] + dot(s.gauss_p[c], d) - bc.pressure);
}

Continuity::Continuity(FlowState& state) : s_(state), solver_(state.mesh.graph, state.halo) {
  matrix_.resize(s_.mesh.graph);
  divergence_.resize(at(s_.mesh.own));
  correction_.resize(at(s_.mesh.cells));
  at_outflow_.resize(s_.mesh.boundary_faces.size());
  bool outflow = false;
  s_.for_boundary([&](std::size_t, const FlowMesh::BoundaryFace&, const BoundaryCondition& bc) {
    outflow = outflow || bc.kind == ConditionKind::outflow;
  });
  enclosed_ = !s_.comm.any(outflow);
  find_velocity_of_fluxes();
}

/// The velocity of a cell whose fluxes are known, faces weighted with their size: sum n n^T |S| u =
/// sum n phi. Never more than the fluxes say, while pressure gradients times V / a may be many
/// times that in cells beside much smaller ones.
void Continuity::find_velocity_of_fluxes() {
  const FlowMesh& m = s_.mesh;
  added_flux_.resize(at(m.cells));
  std::vector<SymmetricMat3> sum(at(m.cells));
  for (std::size_t f = 0; f < m.faces(); ++f)
    for (const int c : {m.below[f], m.above[f]})
      sum[at(c)].add_square(m.area[f], 1 / norm(m.area[f]));
  for (const auto& b : m.boundary_faces) sum[at(b.cell)].add_square(b.normal, b.size);
  constexpr double share = 0.01;  // added each way: all faces of a cell may lie in a plane
  for (int c = 0; c < m.own; ++c) {
    SymmetricMat3& s = sum[at(c)];
    const double more = share * (s.xx + s.yy + s.zz);
    s.xx += more, s.yy += more, s.zz += more;
    const SymmetricMat3 inverse = s.inverse();
    const double entries[] = {inverse.xx, inverse.xy, inverse.xz,
                              inverse.yy, inverse.yz, inverse.zz};
    std::copy(std::begin(entries), std::end(entries), of_fluxes_.emplace_back().begin());
  }
}

double Continuity::own_inflow() const {
  double sum = 0;
  for (const double phi : s_.boundary_flux) sum += std::max(-phi, 0.0);
  return sum;
}

double Continuity::inflow() const { return s_.comm.sum(own_inflow()); }

void Continuity::project_flux() {
  assemble(nullptr);
  solver_.set_matrix(matrix_);
  solve_ = solver_.solve(divergence_, correction_, 1e-6, 100, enclosed_);
  apply();
}

void Continuity::prepare(const Momentum& momentum) {
  assemble(&momentum.correction());
  solver_.set_matrix(matrix_);
}

void Continuity::correct(const Momentum& momentum, double reduction, int most_iterations) {
  const FlowMesh& m = s_.mesh;
  predict(momentum);
  assemble(&momentum.correction());
  {
    const StageClock::Scope timed(s_.clock, Stage::multigrid_refresh);
    solver_.set_matrix(matrix_);
  }
  {
    const StageClock::Scope timed(s_.clock, Stage::pressure_solve);
    solve_ = solver_.solve(divergence_, correction_, reduction, most_iterations, enclosed_);
  }
  const StageClock::Scope timed(s_.clock, Stage::correction);
  apply();
  for (std::size_t c = 0; c < at(m.cells); ++c) s_.p[c] += correction_[c];
  if (enclosed_) {
    double sums[2] = {0, 0};
    for (std::size_t c = 0; c < at(m.own); ++c)
      sums[0] += s_.p[c] * m.volume[c], sums[1] += m.volume[c];
    s_.comm.sum(sums);
    for (double& p : s_.p) p -= sums[0] / sums[1];
  }
  s_.update_pressure_gradients();
  for (std::size_t c = 0; c < at(m.own); ++c)
    s_.u[c] += momentum.delta()[c] + added_velocity(c) / s_.weight(c);
  for (const PinchedCell& p : s_.gradients.pinched()) {
    Vec3& u = s_.u[at(p.cell)];
    u -= p.across * dot(p.across, u);
  }
  s_.halo.refresh(s_.u);
}

void Continuity::predict(const Momentum& momentum) {
  const StageClock::Scope timed(s_.clock, Stage::fluxes);
  const FlowMesh& m = s_.mesh;
  const auto& share = momentum.pseudo_share();
  const auto& va = momentum.volume_over_a();
  const auto& delta = momentum.delta();
  const std::size_t nf = m.faces();
  if (s_.fast()) find_upstream_shares(), find_face_density();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    const double w = m.weight[f], v = 1 - w;
    const double target = interpolated_flux(s_, f, va);
    const double keep = w * share[a] + v * share[b];
    const double pushed = dot(m.area[f], delta[a] * w + delta[b] * v);
    if (face_density_.empty()) {
      s_.flux[f] += (1 - keep) * (target - s_.flux[f]) + pushed;
    } else {
      const double r = face_density_[f];
      s_.flux[f] += (1 - keep) * (r * target - s_.flux[f]) + r * pushed;
    }
  }
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != ConditionKind::outflow) return;
    const auto c = at(b.cell);
    const double target = outflow_flux(s_, b, bc, va);
    const double r = s_.weight(c);
    s_.boundary_flux[i] +=
        (1 - share[c]) * (r * target - s_.boundary_flux[i]) + r * dot(b.area, delta[c]);
  });
}

void Continuity::find_upstream_shares() {
  constexpr double from = 0.9, over = 0.1;  // Mach number
  const FastAir& gas = *s_.flow_case.fast;
  upstream_share_.resize(at(s_.mesh.cells));
  for (std::size_t c = 0; c < upstream_share_.size(); ++c) {
    const double mach = norm(s_.u[c]) / gas.speed_of_sound(s_.temperature[c]);
    upstream_share_[c] = std::clamp((mach - from) / over, 0.0, 1.0);
  }
}

/// Density at the faces: the mean, or the upstream one.
void Continuity::find_face_density() {
  const FlowMesh& m = s_.mesh;
  face_density_.resize(m.faces());
  for (std::size_t f = 0; f < face_density_.size(); ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    const std::size_t up = s_.flux[f] >= 0 ? a : b;
    const double mean = m.weight[f] * s_.density[a] + (1 - m.weight[f]) * s_.density[b];
    face_density_[f] = mean + upstream_share_[up] * (s_.density[up] - mean);
  }
}

void Continuity::assemble(const std::vector<double>* factor) {
  const StageClock::Scope timed(s_.clock, Stage::pressure_assembly);
  const FlowMesh& m = s_.mesh;
  std::fill(matrix_.diagonal.begin(), matrix_.diagonal.end(), 0.0);
  std::fill(divergence_.begin(), divergence_.end(), 0.0);
  const std::size_t nf = m.faces(), own = divergence_.size();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    const double w = m.weight[f], mean = factor ? w * (*factor)[a] + (1 - w) * (*factor)[b] : 1.0;
    const double dense = factor && !face_density_.empty() ? face_density_[f] : 1.0;
    const auto c = static_cast<float>(m.g[f] * mean * dense);
    matrix_.entry[at(m.slots.of_below[f])] = matrix_.entry[at(m.slots.of_above[f])] = -c;
    if (a < own) matrix_.diagonal[a] += static_cast<double>(c), divergence_[a] -= s_.flux[f];
    if (b < own) matrix_.diagonal[b] += static_cast<double>(c), divergence_[b] += s_.flux[f];
  }
  if (factor && s_.fast()) add_compression();
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    divergence_[at(b.cell)] -= s_.boundary_flux[i];
    if (bc.kind != ConditionKind::outflow) return;
    at_outflow_[i] =
        outflow_g(m, b) * (factor ? (*factor)[at(b.cell)] * s_.weight(at(b.cell)) : 1.0);
    matrix_.diagonal[at(b.cell)] += at_outflow_[i];
  });
  imbalance_sums_ = {0, own_inflow()};
  for (const double d : divergence_) imbalance_sums_[0] += std::abs(d);
}

/// What a change of pressure changes in the mass that leaves a cell with its density: near the
/// speed of sound as much as what the pressure gradient drives. Only the cell's own share: what
/// comes from upstream follows in the next iteration.
void Continuity::add_compression() {
  const FlowMesh& m = s_.mesh;
  const FastAir& gas = *s_.flow_case.fast;
  for (std::size_t f = 0; f < m.faces(); ++f) {
    const auto up = at(s_.flux[f] >= 0 ? m.below[f] : m.above[f]);
    if (up < divergence_.size() && upstream_share_[up] > 0)
      matrix_.diagonal[up] += upstream_share_[up] * std::abs(s_.flux[f]) /
                              (s_.density[up] * gas.gas_constant * s_.temperature[up]);
  }
}

void Continuity::apply() {
  const FlowMesh& m = s_.mesh;
  std::fill(added_flux_.begin(), added_flux_.end(), Vec3{});
  const std::size_t nf = m.faces();
  const int spare = m.graph.entries();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    const int slot = m.slots.of_below[f] != spare ? m.slots.of_below[f] : m.slots.of_above[f];
    const double added =
        static_cast<double>(matrix_.entry[at(slot)]) * (correction_[b] - correction_[a]);
    s_.flux[f] += added;
    const Vec3 along_normal = m.area[f] * (added / norm(m.area[f]));
    added_flux_[a] += along_normal, added_flux_[b] += along_normal;
  }
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != ConditionKind::outflow) return;
    const double added = at_outflow_[i] * correction_[at(b.cell)];
    s_.boundary_flux[i] += added;
    added_flux_[at(b.cell)] += b.normal * added;
  });
}

}  // namespace dunefield
