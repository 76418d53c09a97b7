#include <dunefield/sensitivity/transposed_flow.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/carried_velocity.hpp>
#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {
namespace {

/// Row i of the matrix gets component i of `of` times the way.
void add_outer(Mat3& m, const Vec3& of, const Vec3& way) {
  for (int i = 0; i < 3; ++i) m.row[i] += way * of[i];
}

/// What belongs to the gradient in the product of its transpose with an area.
void add_transposed(Mat3& m, const Vec3& area, const Vec3& of) {
  for (int i = 0; i < 3; ++i) m.row[i] += of * area[i];
}

/// What a wall's slip enters the gradient with, from the difference of velocities.
Vec3 seen(const Vec3& difference, const Vec3& normal, double slope) {
  return difference * slope + normal * (dot(normal, difference) * (1 - slope));
}

}  // namespace

TransposedFlow::TransposedFlow(const FrozenFlow& flow)
    : s_(flow.state()),
      volume_over_a_(flow.volume_over_a()),
      of_velocity_(s_.gradients.velocity_weights()),
      of_pressure_(s_.gradients.pressure_weights()),
      factor_slope_(s_.mesh.boundary_faces.size(), 0.0) {
  if (s_.flow_case.options.turbulence == TurbulenceModel::laminar) return;
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != ConditionKind::wall) return;
    const auto c = at(b.cell);
    const double slip = norm(s_.wall_slip[i]);
    if (!(slip > 0)) return;
    constexpr double step = 1e-4;
    factor_slope_[i] = (s_.wall_factor_at(c, b, bc, slip * (1 + step)) -
                        s_.wall_factor_at(c, b, bc, slip * (1 - step))) /
                       (2 * step);
  });
}

FlowVector TransposedFlow::times(const FlowVector& given) const {
  const FlowMesh& m = s_.mesh;
  FlowVector lambda = given;
  Reverse r(at(m.cells));
  for (const PinchedCell& p : s_.gradients.pinched()) {
    Vec3& l = lambda.u[at(p.cell)];
    const double across = dot(p.across, l);
    r.x.u[at(p.cell)] += p.across * across;
    l -= p.across * across;
  }
  for (std::size_t c = 0; c < at(m.own); ++c) r.gauss_p[c] -= lambda.u[c] * m.volume[c];
  interior(lambda, r);
  limited_faces(lambda, r);
  boundaries(lambda, r);
  finish(r);
  return std::move(r.x);
}

void TransposedFlow::interior(const FlowVector& lambda, Reverse& r) const {
  const FlowMesh& m = s_.mesh;
  const double nu = s_.flow_case.air.kinematic_viscosity;
  const std::vector<double>& reach = s_.gradients.reach();
  for (std::size_t f = 0; f < m.faces(); ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    const double phi = s_.flux[f], w = m.weight[f], v = 1 - w, g = m.g[f];
    const Vec3 d = m.between(f), area = m.area[f];
    const bool upward = phi >= 0;
    const std::size_t up = upward ? a : b;
    const Vec3 uf = carried_velocity(m, f, upward, s_.u, s_.grad_u, reach);
    const Vec3 la = lambda.u[a], lb = lambda.u[b];

    const Vec3 of_carried = (lb - la) * phi;
    const double far = upward ? 1 - w : -w;
    const Vec3 way = m.along(f, up, m.skew[f] + d * ((1 - kappa) * far));
    r.x.u[a] += la * phi, r.x.u[b] -= lb * phi;
    r.x.u[up] += of_carried;
    add_outer(r.grad_u[up], of_carried * reach[up], way);
    const Vec3 central = of_carried * (kappa * far * reach[up]);
    r.x.u[b] += central, r.x.u[a] -= central;

    const double mu = nu + w * s_.nu_t[a] + v * s_.nu_t[b];
    const Vec3 of_stress = (la - lb) * mu, aside = area - d * g;
    r.x.u[b] += of_stress * g, r.x.u[a] -= of_stress * g;
    add_outer(r.grad_u[a], of_stress * w, m.along(f, a, aside));
    add_outer(r.grad_u[b], of_stress * v, m.along(f, b, aside));
    add_transposed(r.grad_u[a], area, of_stress * w);
    add_transposed(r.grad_u[b], area, of_stress * v);

    const double of_flux =
        dot(uf - s_.u[b], lb) - dot(uf - s_.u[a], la) - lambda.p[a] + lambda.p[b];
    const Vec3 of_mean = area * of_flux;
    r.x.u[a] += of_mean * w, r.x.u[b] += of_mean * v;
    add_outer(r.grad_u[a], of_mean * w, m.along(f, a, m.skew[f]));
    add_outer(r.grad_u[b], of_mean * v, m.along(f, b, m.skew[f]));
    const double of_p = (w * volume_over_a_[a] + v * volume_over_a_[b]) * g * of_flux;
    r.x.p[a] += of_p, r.x.p[b] -= of_p;
    r.gauss_p[a] += m.along(f, a, d) * (w * of_p), r.gauss_p[b] += m.along(f, b, d) * (v * of_p);
  }
}

void TransposedFlow::limited_faces(const FlowVector& lambda, Reverse& r) const {
  const FlowMesh& m = s_.mesh;
  for (const auto& [face, share] : s_.limited_faces) {
    const auto f = at(face), a = at(m.below[f]), b = at(m.above[f]);
    const Vec3 exchanged =
        (lambda.u[a] - lambda.u[b]) * (share * norm(m.area[f]) * s_.flow_case.reference_speed);
    r.x.u[b] += exchanged, r.x.u[a] -= exchanged;
  }
}

void TransposedFlow::boundaries(const FlowVector& lambda, Reverse& r) const {
  const FlowMesh& m = s_.mesh;
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    const double phi = s_.boundary_flux[i], mu = s_.flow_case.air.kinematic_viscosity + s_.nu_t[c];
    const Vec3 l = lambda.u[c];
    switch (bc.kind) {
      case ConditionKind::stream: {
        const Vec3 aside = b.centre - m.centre[c] - b.normal * b.height;
        const Vec3 of_slope = l * (mu * b.size / b.height);
        r.x.u[c] += l * phi - of_slope;
        add_outer(r.grad_u[c], of_slope * -1.0, aside);
        add_transposed(r.grad_u[c], b.area, l * mu);
        break;
      }
      case ConditionKind::outflow: {
        add_transposed(r.grad_u[c], b.area, l * mu);
        double of_flux = -lambda.p[c];
        if (phi < 0) {  // only the part along the normal comes back
          const Vec3 sideways = l - b.normal * dot(b.normal, l);
          r.x.u[c] += sideways * phi;
          of_flux += dot(s_.u[c], sideways);
        }
        r.x.u[c] += b.area * of_flux;
        const double of_p = volume_over_a_[c] * outflow_g(m, b) * of_flux;
        r.x.p[c] += of_p;
        r.gauss_p[c] += (b.centre - m.centre[c]) * of_p;
        break;
      }
      case ConditionKind::opening:
        if (phi < 0) r.x.u[c] += l * phi;
        break;
      case ConditionKind::slip:
        r.x.u[c] -= b.normal * (dot(b.normal, l) * 2 * mu * b.size / b.height);
        break;
      case ConditionKind::wall: wall_stress(i, b, l, r); break;
    }
  });
}

/// Of -slip * size * factor(|slip|), the slip being what is tangential of velocity at the foot.
void TransposedFlow::wall_stress(std::size_t i, const FlowMesh::BoundaryFace& b, const Vec3& of,
                                 Reverse& r) const {
  const auto c = at(b.cell);
  const Vec3 slip = s_.wall_slip[i];
  const double slip2 = norm2(slip);
  Vec3 of_slip = of * (-b.size * s_.wall_factor[i]);
  if (slip2 > 0) of_slip -= slip * (b.size * factor_slope_[i] * dot(slip, of) / slip2);
  of_slip -= b.normal * dot(b.normal, of_slip);
  r.x.u[c] += of_slip;
  add_outer(r.grad_u[c], of_slip, b.centre - b.normal * b.height - s_.mesh.centre[c]);
}

/// Of the pressure on a wall face: the cell's, with its gradient to the face's centre, and the
/// warp.
void TransposedFlow::face_pressure(const FlowMesh::BoundaryFace& b, const Vec3& of,
                                   Reverse& r) const {
  const auto c = at(b.cell);
  const double of_p = dot(b.area, of);
  r.x.p[c] += of_p;
  r.grad_p[c] += (b.centre - s_.mesh.centre[c]) * of_p + transposed_times(b.warp, of);
}

FlowVector TransposedFlow::load_gradient(const WallWeight& weight) const {
  Reverse r(at(s_.mesh.cells));
  for (std::size_t p = 0; p < s_.mesh.boundaries.size(); ++p) {
    const Boundary& wall = s_.mesh.boundaries[p];
    if (wall.kind != BoundaryKind::part || s_.flow_case.conditions[p].kind != ConditionKind::wall)
      continue;
    for (int i = wall.first; i < wall.first + wall.count; ++i) {
      const auto& b = s_.mesh.boundary_faces[at(i)];
      const Vec3 direction = weight.at_place(b.centre);
      face_pressure(b, direction, r);
      wall_stress(at(i), b, direction * -1.0, r);
    }
  }
  finish(r);
  return std::move(r.x);
}

void TransposedFlow::finish(Reverse& r) const {
  const FlowMesh& m = s_.mesh;
  for (std::size_t c = 0; c < at(m.own); ++c) r.gauss_p[c] *= 1 / m.volume[c];
  for (std::size_t f = 0; f < m.faces(); ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    const double w = m.weight[f], v = 1 - w, of_p = dot(m.area[f], r.gauss_p[a] - r.gauss_p[b]);
    r.x.p[a] += w * of_p, r.x.p[b] += v * of_p;
    r.grad_p[a] += m.along(f, a, m.skew[f]) * (w * of_p);
    r.grad_p[b] += m.along(f, b, m.skew[f]) * (v * of_p);
  }
  for (const FlowMesh::WarpedFace& warped : m.warped) {
    const auto f = at(warped.face), a = at(m.below[f]), b = at(m.above[f]);
    const double w = m.weight[f];
    const Vec3 of = transposed_times(warped.warp, r.gauss_p[a] - r.gauss_p[b]);
    r.grad_p[a] += of * w, r.grad_p[b] += of * (1 - w);
  }
  s_.for_boundary([&](std::size_t, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind == ConditionKind::outflow) return;
    const auto c = at(b.cell);
    const double of_p = dot(b.area, r.gauss_p[c]);
    r.x.p[c] += of_p;
    r.grad_p[c] += (b.centre - m.centre[c]) * of_p;
    if (bc.kind == ConditionKind::wall) r.grad_p[c] += transposed_times(b.warp, r.gauss_p[c]);
  });
  for (std::size_t f = 0; f < m.faces(); ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    Vec3 of_u;
    for (int i = 0; i < 3; ++i)
      of_u[i] = dot(of_velocity_.below[f], r.grad_u[a].row[i]) +
                dot(of_velocity_.above[f], r.grad_u[b].row[i]);
    r.x.u[b] += of_u, r.x.u[a] -= of_u;
    const double of_p =
        dot(of_pressure_.below[f], r.grad_p[a]) + dot(of_pressure_.above[f], r.grad_p[b]);
    r.x.p[b] += of_p, r.x.p[a] -= of_p;
  }
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    Vec3 of;
    for (int k = 0; k < 3; ++k) of[k] = dot(of_velocity_.boundary[i], r.grad_u[c].row[k]);
    if (bc.kind == ConditionKind::slip)
      r.x.u[c] -= b.normal * (2 * dot(b.normal, of));
    else if (bc.kind == ConditionKind::wall)
      r.x.u[c] -= seen(of, b.normal, s_.wall_slope[i]);
    else if (bc.kind == ConditionKind::stream)
      r.x.u[c] -= of;
    if (bc.kind == ConditionKind::outflow) r.x.p[c] -= dot(of_pressure_.boundary[i], r.grad_p[c]);
  });
}

}  // namespace dunefield
