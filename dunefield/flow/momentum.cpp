#include <dunefield/flow/momentum.hpp>

namespace dunefield {
namespace {

// of the reference speed, in the pseudo-time: keeps stagnating cells tame
constexpr double speed_floor = 0.3;

std::size_t at(int i) { return static_cast<std::size_t>(i); }

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

void Momentum::solve(double courant) {
  const StageClock::Scope timed(s_.clock, Stage::momentum_assembly);
  const FlowMesh& m = s_.mesh;
  const std::size_t own = at(m.own);
  for (std::size_t c = 0; c < own; ++c) rhs_[c] = s_.gauss_p[c] * -m.volume[c];
  for (std::size_t c = 0; c < body_force_.size(); ++c) rhs_[c] += body_force_[c];
  std::fill(diagonal_.begin(), diagonal_.end(), Diagonal{});
  interior();
  boundaries();
  // Across a gap one cell wide the walls take whatever force there is.
  for (const PinchedCell& p : s_.gradients.pinched())
    rhs_[at(p.cell)] -= p.across * dot(p.across, rhs_[at(p.cell)]);
  double sums[2] = {0, 0};
  for (std::size_t c = 0; c < own; ++c)
    sums[0] += norm2(rhs_[c]) / m.volume[c], sums[1] += m.volume[c];
  s_.comm.sum(sums);
  residual_ = std::sqrt(sums[0] / sums[1]);
  pseudo_time(courant);
  const StageClock::Scope solving(s_.clock, Stage::momentum_solve);
  gauss_seidel(m.graph, matrix_, rhs_, delta_, s_.flow_case.options.momentum_sweeps, s_.halo);
}

void Momentum::interior() {
  const FlowMesh& m = s_.mesh;
  const double nu = s_.flow_case.air.kinematic_viscosity;
  const std::vector<double>& reach = s_.gradients.reach();
  const std::size_t nf = m.faces();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    const double phi = s_.flux[f], w = m.weight[f], v = 1 - w, g = m.g[f];
    const Vec3 d = m.between(f);
    const bool upward = phi >= 0;
    const auto up = upward ? a : b;
    const Vec3 uf =
        s_.u[up] + s_.grad_u[up] * m.along(f, up, m.skew[f] + d * (upward ? v : -w)) * reach[up];

    const double mu = nu + w * s_.nu_t[a] + v * s_.nu_t[b];
    Mat3 grad = s_.grad_u[a] * w;
    grad += s_.grad_u[b] * v;
    const Vec3 aside = m.area[f] - d * g;
    const Vec3 oblique = m.lateral[f] ? s_.grad_u[a] * m.along(f, a, aside) * w +
                                            s_.grad_u[b] * m.along(f, b, aside) * v
                                      : grad * aside;
    const Vec3 stress =
        ((s_.u[b] - s_.u[a]) * g + oblique + transposed_times(grad, m.area[f])) * mu;
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

void Momentum::boundaries() {
  const FlowMesh& m = s_.mesh;
  const double nu = s_.flow_case.air.kinematic_viscosity;
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    const double phi = s_.boundary_flux[i], mu = nu + s_.nu_t[c];
    double coefficient = 0, diffusion = 0;
    switch (bc.kind) {
      case BoundaryKind::stream: {
        const Vec3 d = b.centre - m.centre[c], du = s_.boundary_velocity[i] - s_.u[c];
        diffusion = mu * b.size / b.height;
        const Vec3 aside = d - b.normal * b.height;
        rhs_[c] -= du * phi;
        rhs_[c] +=
            (du - s_.grad_u[c] * aside) * diffusion + transposed_times(s_.grad_u[c], b.area) * mu;
        coefficient = diffusion + std::max(-phi, 0.0);
        break;
      }
      case BoundaryKind::outflow:
        // The normal derivative vanishes, the transposed part of the stress does not. Air that
        // comes back brings no tangential velocity.
        rhs_[c] += transposed_times(s_.grad_u[c], b.area) * mu;
        if (phi < 0)
          rhs_[c] -= (b.normal * dot(b.normal, s_.u[c]) - s_.u[c]) * phi, coefficient = -phi;
        break;
      case BoundaryKind::slip: {
        rhs_[c] -= b.normal * (dot(b.normal, s_.u[c]) * 2 * mu * b.size / b.height);
        break;
      }
      case BoundaryKind::wall:
        diffusion = b.size * s_.wall_factor[i];
        rhs_[c] += s_.wall_turning(b, bc) * (nu * b.size) - s_.wall_slip[i] * diffusion;
        coefficient = diffusion;
        break;
    }
    diagonal_[c].boundary += coefficient;
    diagonal_[c].diffusion += diffusion;
    diagonal_[c].outflux += std::max(phi, 0.0);
  });
}

void Momentum::pseudo_time(double courant) {
  const FlowMesh& m = s_.mesh;
  const double nu = s_.flow_case.air.kinematic_viscosity;
  const double floor_speed = speed_floor * s_.flow_case.reference_speed;
  for (std::size_t c = 0; c < at(m.own); ++c) {
    const Diagonal& d = diagonal_[c];
    const double a = d.neighbours + d.boundary;
    const double r = (std::max(d.outflux, floor_speed * m.side2[c]) + d.diffusion) / courant;
    matrix_.diagonal[c] = static_cast<float>(a + r);
    volume_over_a_[c] = m.volume[c] / a;
    pseudo_share_[c] = r / (a + r);
    correction_[c] = m.volume[c] / (r + d.boundary);
  }
  // Slip planes resist the normal component alone. They must not slow the others, so that this is
  // done at each cell by itself; against the pseudo-time term only, since a change that neighbours
  // share meets no other resistance.
  s_.for_boundary([&](std::size_t, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != BoundaryKind::slip) return;
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
