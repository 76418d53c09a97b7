#include <dunefield/flow/flow_state.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/flow/boundary_momentum.hpp>
#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {
namespace {

/// The case itself, once its conditions and its air are known to make sense.
const FlowCase& checked(const FlowCase& c, const FlowMesh& m) {
  if (c.conditions.size() != m.boundaries.size())
    throw InputError(fmt::format("{} boundary conditions for {} boundaries", c.conditions.size(),
                                 m.boundaries.size()),
                     "flow case", "give one for each boundary of the mesh");
  if (!(c.air.density > 0) || !(c.air.kinematic_viscosity > 0))
    throw InputError("density and viscosity must be positive", "air", "check them");
  return c;
}

}  // namespace

FlowState::FlowState(const FlowMesh& m, const FlowCase& c, Communicator& communicator)
    : mesh(m),
      flow_case(checked(c, m)),
      comm(communicator),
      halo(communicator, m.halo_plan),
      gradients(m, c.conditions),
      wall_profile(traits_of(c.options.turbulence).profile) {
  const std::size_t cells = at(m.cells);
  static_cast<Fields&>(*this) = fields_at_rest(c.options.turbulence, cells);
  u.assign(cells, c.initial_velocity);
  nu_t.assign(cells, 0.0);  // of laminar flow, too: momentum has no case of its own for it
  flux.assign(m.faces(), 0.0);
  boundary_flux.assign(m.boundary_faces.size(), 0.0);
  step_rate.assign(at(m.own), 0.0);
  grad_u.resize(cells), grad_p.resize(cells), gauss_p.resize(cells);
  boundary_velocity.resize(m.boundary_faces.size());
  boundary_pressure.assign(m.boundary_faces.size(), 0.0);
  wall_factor.assign(m.boundary_faces.size(), 0.0);
  wall_slip.resize(m.boundary_faces.size());
  wall_slope.assign(m.boundary_faces.size(), 1.0);
  wall_scale.assign(m.boundary_faces.size(), 0.0);
  loads.resize(m.boundary_faces.size());
  set_boundary_velocity();
  halo.refresh(gradients.reach());
  if (fast()) {
    enthalpy.assign(cells, stream_enthalpy());
    temperature.assign(cells, c.fast->temperature), density.assign(cells, 1.0);
    viscosity.assign(cells, c.air.kinematic_viscosity);
    whole_viscosity = viscosity;
  }
  if (!c.devices.empty()) devices.emplace(*this, c.devices);
}

double FlowState::stream_enthalpy() const {
  const double speed = flow_case.reference_speed;
  return flow_case.fast->cp() * flow_case.fast->temperature + 0.5 * speed * speed;
}

void FlowState::update_gas() {
  constexpr double coldest = 0.3, hottest = 3, thinnest = 0.1, thickest = 10;  // of the stream's
  const FastAir& gas = *flow_case.fast;
  const double t0 = gas.temperature, rt0 = gas.gas_constant * t0,
               nu = flow_case.air.kinematic_viscosity;
  for (std::size_t c = 0; c < at(mesh.cells); ++c) {
    const double t =
        std::clamp((enthalpy[c] - 0.5 * norm2(u[c])) / gas.cp(), coldest * t0, hottest * t0);
    temperature[c] = t;
    density[c] = std::clamp((1 + p[c] / rt0) * t0 / t, thinnest, thickest);
    viscosity[c] = nu * gas.viscosity_ratio(t);
    whole_viscosity[c] = viscosity[c] + density[c] * nu_t[c];
  }
  for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind == ConditionKind::stream)
      boundary_flux[i] = dot(boundary_velocity[i], b.area) *
                         std::clamp(1 + boundary_pressure[i] / rt0, thinnest, thickest);
  });
}

void FlowState::set_boundary_velocity() {
  // An opening's flow is that of the whole mesh: its faces on all ranks share it.
  std::vector<double> size(mesh.boundaries.size(), 0.0);
  for (std::size_t p = 0; p < size.size(); ++p)
    for (int i = mesh.boundaries[p].first; i < mesh.boundaries[p].first + mesh.boundaries[p].count;
         ++i)
      size[p] += mesh.boundary_faces[at(i)].size;
  comm.sum(std::span(size));
  for (std::size_t p = 0; p < size.size(); ++p) {
    if (flow_case.conditions[p].kind != ConditionKind::opening || !(size[p] > 0)) continue;
    const double speed = flow_case.conditions[p].volume_flow / size[p];
    for (int i = mesh.boundaries[p].first; i < mesh.boundaries[p].first + mesh.boundaries[p].count;
         ++i) {
      const FlowMesh::BoundaryFace& b = mesh.boundary_faces[at(i)];
      boundary_velocity[at(i)] = b.normal * speed, boundary_flux[at(i)] = b.size * speed;
    }
  }
  for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind == ConditionKind::stream) {
      boundary_velocity[i] = bc.velocity_at(b.centre);
      boundary_flux[i] = dot(boundary_velocity[i], b.area);
    } else if (bc.kind == ConditionKind::wall) {
      const Vec3 v = bc.velocity_at(b.centre);
      boundary_velocity[i] = v - b.normal * dot(v, b.normal);
    }
  });
}

void FlowState::update_velocity_gradient() {
  const StageClock::Scope timed(clock, Stage::gradients);
  gradients.of_velocity(u, boundary_velocity, wall_slope, grad_u);
  halo.refresh(grad_u);
}

void FlowState::limit(std::vector<LimitedCell> cells) {
  std::vector<double>& share = limited_share;
  share.resize(at(mesh.cells));
  for (const LimitedCell& l : gradients.limited_cells()) share[at(l.cell)] = 0;
  for (const LimitedCell& l : cells) share[at(l.cell)] = l.share;
  const bool none = cells.empty();
  gradients.limit(std::move(cells));
  halo.refresh(share);
  limited_faces.clear();
  if (none && std::none_of(share.begin() + mesh.own, share.end(), [](double s) { return s > 0; }))
    return;
  for (std::size_t f = 0; f < mesh.faces(); ++f)
    if (const double of_face = std::max(share[at(mesh.below[f])], share[at(mesh.above[f])]);
        of_face > 0)
      limited_faces.push_back({static_cast<int>(f), of_face});
}

void FlowState::update_pressure_gradients() {
  const StageClock::Scope timed(clock, Stage::gradients);
  gradients.of_pressure(p, grad_p);
  halo.refresh(grad_p);
  std::fill(gauss_p.begin(), gauss_p.end(), Vec3{});
  const std::size_t nf = mesh.faces();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(mesh.below[f]), b = at(mesh.above[f]);
    const double w = mesh.weight[f], v = 1 - w;
    const double pf = w * (p[a] + dot(mesh.along(f, a, mesh.skew[f]), grad_p[a])) +
                      v * (p[b] + dot(mesh.along(f, b, mesh.skew[f]), grad_p[b]));
    const Vec3 force = mesh.area[f] * pf;
    gauss_p[a] += force, gauss_p[b] -= force;
  }
  for (const FlowMesh::WarpedFace& warped : mesh.warped) {
    const auto f = at(warped.face), a = at(mesh.below[f]), b = at(mesh.above[f]);
    const double w = mesh.weight[f];
    const Vec3 force = warped.warp * (grad_p[a] * w + grad_p[b] * (1 - w));
    gauss_p[a] += force, gauss_p[b] -= force;
  }
  for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    const auto c = at(b.cell);
    const double pf = bc.kind == ConditionKind::outflow
                          ? bc.pressure
                          : p[c] + dot(grad_p[c], b.centre - mesh.centre[c]);
    boundary_pressure[i] = pf;
    gauss_p[c] += b.area * pf;
    if (bc.kind == ConditionKind::wall) gauss_p[c] += b.warp * grad_p[c];
  });
  for (std::size_t c = 0; c < at(mesh.own); ++c) gauss_p[c] *= 1 / mesh.volume[c];
  halo.refresh(gauss_p);
}

double FlowState::wall_scale_at(std::size_t c, const FlowMesh::BoundaryFace& b,
                                const BoundaryCondition& bc, double slip) const {
  const double nu = kinematic_viscosity(c);
  return nu_tilde.empty()
             ? wall_law::velocity_scale(wall_profile, k[c], slip, b.height, nu, bc.roughness)
             : wall_law::friction_velocity(wall_profile, slip, b.height, nu, bc.roughness);
}

double FlowState::wall_factor_at(std::size_t c, const FlowMesh::BoundaryFace& b,
                                 const BoundaryCondition& bc, double slip) const {
  const double nu = kinematic_viscosity(c), scale = wall_scale_at(c, b, bc, slip),
               y_plus = scale * b.height / nu, viscous = weight(c) * nu / b.height;
  if (!(y_plus > 0)) return viscous;
  return viscous * y_plus /
         wall_law::velocity(wall_profile, y_plus, scale * bc.roughness / nu).u_plus;
}

void FlowState::update_wall_shear() {
  const StageClock::Scope timed(clock, Stage::walls);
  const bool turbulent = flow_case.options.turbulence != TurbulenceModel::laminar;
  for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != ConditionKind::wall) return;
    const auto c = at(b.cell);
    const double nu = kinematic_viscosity(c);
    // The velocity at the foot of the normal through the face centre, not at the cell centre.
    const Vec3 aside = b.centre - b.normal * b.height - mesh.centre[c];
    const Vec3 relative = u[c] + grad_u[c] * aside - boundary_velocity[i];
    wall_slip[i] = relative - b.normal * dot(b.normal, relative);
    wall_factor[i] = weight(c) * nu / b.height;
    if (!turbulent) return;
    const double slip = norm(wall_slip[i]);
    wall_scale[i] = wall_scale_at(c, b, bc, slip);
    const double y_plus = wall_scale[i] * b.height / nu;
    const wall_law::Velocity law =
        wall_law::velocity(wall_profile, y_plus, wall_scale[i] * bc.roughness / nu);
    if (y_plus > 0) wall_factor[i] *= y_plus / law.u_plus;
    wall_slope[i] = law.slope_share;
  });
}

std::array<double, 2> FlowState::inflow_pressure_sums() const {
  std::array<double, 2> sums{};
  for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind == ConditionKind::stream)
      sums[0] += boundary_pressure[i] * b.size, sums[1] += b.size;
  });
  return sums;
}

void FlowState::update_loads(const std::array<double, 2>& inflow_sums) {
  const double rho = flow_case.air.density;
  undisturbed_pressure = inflow_sums[1] > 0 ? rho * inflow_sums[0] / inflow_sums[1] : 0;
  for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    WallLoad& load = loads[i];
    load.pressure_at = rho * boundary_pressure[i];
    load.pressure = b.area * load.pressure_at;
    if (bc.of_vehicle) {
      // What goes through leaves its momentum with the vehicle, or takes it from there.
      load.pressure += boundary_momentum(*this, i, b, bc).carried * (rho * boundary_flux[i]);
      load.friction = boundary_momentum(*this, i, b, bc).stress * -rho;
    }
    if (bc.kind != ConditionKind::wall) return;
    load.pressure += (b.warp * grad_p[at(b.cell)]) * rho;
    load.friction = boundary_momentum(*this, i, b, bc).stress * -rho;
    const auto c = at(b.cell);
    load.y_plus = std::sqrt(wall_factor[i] / weight(c) * norm(wall_slip[i])) * b.height /
                  kinematic_viscosity(c);
  });
}

void FlowState::update_loads() {
  std::array<double, 2> sums = inflow_pressure_sums();
  comm.sum(sums);
  update_loads(sums);
}

}  // namespace dunefield
