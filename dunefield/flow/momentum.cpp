#include <dunefield/flow/momentum.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/boundary_momentum.hpp>
#include <dunefield/flow/carried_velocity.hpp>

namespace dunefield {
namespace {

// of the reference speed, in the pseudo-time: keeps stagnating cells tame
constexpr double speed_floor = 0.3;

}  // namespace

Momentum::Momentum(FlowState& state) : s_(state) {
  const std::size_t cells = at(s_.mesh.cells);
  matrix_.resize(s_.mesh.graph);
  rhs_.resize(cells), delta_.resize(cells), diagonal_.resize(cells);
  for (auto* v : {&volume_over_a_, &pseudo_share_, &correction_}) v->resize(cells);
  if (s_.flow_case.options.body_force) {
    for (int c = 0; c < s_.mesh.own; ++c)
      body_force_.push_back(s_.flow_case.options.body_force(s_.mesh.centre[at(c)]) *
                            s_.mesh.volume[at(c)]);
  }
}

void Momentum::solve(const PseudoTimeStep& step, double follow) {
  const StageClock::Scope timed(s_.clock, Stage::momentum_assembly);
  assemble();
  pseudo_time(step, follow);
  const StageClock::Scope solving(s_.clock, Stage::momentum_solve);
  gauss_seidel(s_.mesh.graph, matrix_, rhs_, delta_, step.momentum_sweeps, s_.halo);
}

void Momentum::assemble() {
  const FlowMesh& m = s_.mesh;
  const std::size_t own = at(m.own);
  for (std::size_t c = 0; c < own; ++c) rhs_[c] = s_.gauss_p[c] * -m.volume[c];
  for (std::size_t c = 0; c < body_force_.size(); ++c) rhs_[c] += body_force_[c];
  if (s_.devices) s_.devices->add_forces(s_, rhs_);
  std::fill(diagonal_.begin(), diagonal_.end(), Diagonal{});
  interior();
  damp_limited();
  boundaries();
  if (s_.devices)
    s_.devices->for_resistances(s_, [&](int c, double along, double across) {
      diagonal_[at(c)].boundary += along;
      diagonal_[at(c)].held = std::max(0.0, across - along);
    });
  if (s_.time.active()) change_in_time();
  // Across a gap one cell wide the walls take whatever force there is.
  for (const PinchedCell& p : s_.gradients.pinched())
    rhs_[at(p.cell)] -= p.across * dot(p.across, rhs_[at(p.cell)]);
  residual_sums_ = {};
  for (std::size_t c = 0; c < own; ++c)
    residual_sums_[0] += norm2(rhs_[c]) / m.volume[c], residual_sums_[1] += m.volume[c];
}

void Momentum::interior() {
  const FlowMesh& m = s_.mesh;
  const double nu = s_.flow_case.air.kinematic_viscosity;
  const std::vector<double>& reach = s_.gradients.reach();
  const std::size_t nf = m.faces();
  const bool fast = s_.fast();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    const double phi = s_.flux[f], w = m.weight[f], v = 1 - w, g = m.g[f];
    const Vec3 d = m.between(f);
    Vec3 uf = carried_velocity(m, f, phi >= 0, s_.u, s_.grad_u, reach);
    if (!s_.central.empty()) {
      const Vec3 mean = (s_.u[a] + s_.grad_u[a] * m.along(f, a, m.skew[f])) * w +
                        (s_.u[b] + s_.grad_u[b] * m.along(f, b, m.skew[f])) * v;
      uf += (mean - uf) * std::min(s_.central[a], s_.central[b]);
    }

    const double mu = fast ? w * s_.whole_viscosity[a] + v * s_.whole_viscosity[b]
                           : nu + w * s_.nu_t[a] + v * s_.nu_t[b];
    Mat3 grad = s_.grad_u[a] * w;
    grad += s_.grad_u[b] * v;
    const Vec3 aside = m.area[f] - d * g;
    const Vec3 oblique = m.lateral[f] ? s_.grad_u[a] * m.along(f, a, aside) * w +
                                            s_.grad_u[b] * m.along(f, b, aside) * v
                                      : grad * aside;
    Vec3 stress = ((s_.u[b] - s_.u[a]) * g + oblique + transposed_times(grad, m.area[f])) * mu;
    if (fast)  // by what expands
      stress -= m.area[f] * (2.0 / 3 * mu * (grad.row[0].x + grad.row[1].y + grad.row[2].z));
    // The equation is taken in the form sum phi (u_f - u_P), so that an unbalanced flux makes no
    // force.
    rhs_[a] += stress - (uf - s_.u[a]) * phi;
    rhs_[b] += (uf - s_.u[b]) * phi - stress;

    const double diffusion = mu * g, out_a = std::max(phi, 0.0), out_b = std::max(-phi, 0.0);
    matrix_.entry[at(m.slots.of_below[f])] = -static_cast<float>(diffusion + out_b);
    matrix_.entry[at(m.slots.of_above[f])] = -static_cast<float>(diffusion + out_a);
    Diagonal &in_a = diagonal_[a], &in_b = diagonal_[b];
    in_a.neighbours += diffusion + out_b, in_a.diffusion += diffusion, in_a.outflux += out_a;
    in_b.neighbours += diffusion + out_a, in_b.diffusion += diffusion, in_b.outflux += out_b;
  }
}

/// A limited cell exchanges momentum with its neighbours as by a viscosity of the size that
/// first-order upwinding at the free stream's speed would have: otherwise velocity and pressure of
/// a badly shaped cell may oscillate for ever. What one cell gains the other loses.
void Momentum::damp_limited() {
  const FlowMesh& m = s_.mesh;
  for (const auto& [face, share] : s_.limited_faces) {
    const auto f = at(face), a = at(m.below[f]), b = at(m.above[f]);
    const double c = share * norm(m.area[f]) * s_.flow_case.reference_speed;
    const Vec3 exchanged = (s_.u[b] - s_.u[a]) * c;
    rhs_[a] += exchanged, rhs_[b] -= exchanged;
    matrix_.entry[at(m.slots.of_below[f])] -= static_cast<float>(c);
    matrix_.entry[at(m.slots.of_above[f])] -= static_cast<float>(c);
    for (const auto cell : {a, b}) diagonal_[cell].neighbours += c, diagonal_[cell].diffusion += c;
  }
}

void Momentum::boundaries() {
  const double nu = s_.flow_case.air.kinematic_viscosity;
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    const double phi = s_.boundary_flux[i];
    const BoundaryMomentum through = boundary_momentum(s_, i, b, bc);
    rhs_[c] -= (through.carried - s_.u[c]) * phi;
    rhs_[c] += through.stress;
    const double diffusion =
        bc.kind == ConditionKind::stream
            ? (s_.fast() ? s_.whole_viscosity[c] : nu + s_.nu_t[c]) * b.size / b.height
        : bc.kind == ConditionKind::wall ? b.size * s_.wall_factor[i]
                                         : 0;
    diagonal_[c].boundary += diffusion + std::max(-phi, 0.0);
    diagonal_[c].diffusion += diffusion;
    diagonal_[c].outflux += std::max(phi, 0.0);
  });
}

void Momentum::change_in_time() {
  const TimeLevels& t = s_.time;
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c)
    rhs_[c] -= t.change(s_.u[c], t.last.u[c], t.before.u[c]) * s_.mesh.volume[c];
}

/// Where a flow swings for good, the steps must not swing with it: what each takes from the
/// momentum in its cell is the rate times the change of velocity, and that sums to nothing over a
/// period only if the rate is the same all along (docs/validation.md, pairs of the saloon).
void Momentum::pseudo_time(const PseudoTimeStep& step, double follow) {
  const FlowMesh& m = s_.mesh;
  const double nu = s_.flow_case.air.kinematic_viscosity;
  const double floor_speed = speed_floor * s_.flow_case.reference_speed;
  const double crossings_a_diffusion = step.courant / step.diffusive_courant;
  const double in_time = s_.time.active() ? s_.time.rate() : 0;
  for (std::size_t c = 0; c < at(m.own); ++c) {
    const Diagonal& d = diagonal_[c];
    const double a = d.neighbours + d.boundary,
                 present = std::max(d.outflux, floor_speed * m.side2[c]) +
                           crossings_a_diffusion * d.diffusion;
    double& rate = s_.step_rate[c];
    rate = present + (rate - present) * (1 - follow);
    const double r = rate / step.courant + d.held;
    const double held = r + in_time * m.volume[c];
    matrix_.diagonal[c] = static_cast<float>(a + held);
    volume_over_a_[c] = m.volume[c] / a;
    pseudo_share_[c] = held / (a + held);
    correction_[c] = m.volume[c] / (held + d.boundary);
  }
  // Slip planes resist the normal component alone. They must not slow the others, so that this is
  // done at each cell by itself; against the pseudo-time term only, since a change that neighbours
  // share meets no other resistance.
  s_.for_boundary([&](std::size_t, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != ConditionKind::slip) return;
    const auto c = at(b.cell);
    const double normal = 2 * (nu + s_.nu_t[c]) * b.size / b.height,
                 r = pseudo_share_[c] * static_cast<double>(matrix_.diagonal[c]);
    rhs_[c] -= b.normal * (dot(b.normal, rhs_[c]) * normal / (normal + r));
  });
  s_.halo.refresh(volume_over_a_);
  s_.halo.refresh(pseudo_share_);
  s_.halo.refresh(correction_);
}

}  // namespace dunefield
