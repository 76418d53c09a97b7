#include <dunefield/balance/balance.hpp>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

double inflow_pressure(const FlowState& s) {
  double sums[2] = {0, 0};
  s.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind == ConditionKind::stream)
      sums[0] += s.boundary_pressure[i] * b.size, sums[1] += b.size;
  });
  s.comm.sum(sums);
  return sums[1] > 0 ? s.flow_case.air.density * sums[0] / sums[1] : 0;
}

/// The other half's load added to that of the half y >= 0.
void add_mirror_image(Load& l) {
  l.force = {2 * l.force.x, 0, 2 * l.force.z};
  l.moment = {0, 2 * l.moment.y, 0};
}

}  // namespace

Load Balance::pressure() const {
  Load sum;
  for (const PartLoad& p : parts) sum += p.pressure;
  return sum;
}
Load Balance::friction() const {
  Load sum;
  for (const PartLoad& p : parts) sum += p.friction;
  return sum;
}
Load Balance::total() const {
  Load sum = pressure();
  return sum += friction();
}

Balance measure_balance(const FlowState& s, bool half) {
  Balance balance;
  balance.undisturbed_pressure = inflow_pressure(s);
  const auto loads = s.wall_loads();
  std::vector<double> sums;
  for (const auto& boundary : s.mesh.boundaries) {
    if (boundary.kind != BoundaryKind::part) continue;
    balance.parts.push_back({boundary.name, {}, {}, 0, 0});
    PartLoad& part = balance.parts.back();
    for (int i = boundary.first; i < boundary.first + boundary.count; ++i) {
      const auto& b = s.mesh.boundary_faces[at(i)];
      const Vec3 pressure = loads[at(i)].pressure - b.area * balance.undisturbed_pressure;
      part.pressure += {pressure, cross(b.centre, pressure)};
      part.friction += {loads[at(i)].friction, cross(b.centre, loads[at(i)].friction)};
      part.area += b.size;
      part.mean_y_plus += b.size * loads[at(i)].y_plus;
    }
    for (const Load* l : {&part.pressure, &part.friction})
      for (const Vec3* v : {&l->force, &l->moment})
        for (int k = 0; k < 3; ++k) sums.push_back((*v)[k]);
    sums.push_back(part.area), sums.push_back(part.mean_y_plus);
  }
  s.comm.sum(std::span(sums));
  const double* next = sums.data();
  for (PartLoad& part : balance.parts) {
    for (Load* l : {&part.pressure, &part.friction}) {
      for (Vec3* v : {&l->force, &l->moment})
        for (int k = 0; k < 3; ++k) (*v)[k] = *next++;
      if (half) add_mirror_image(*l);
    }
    part.area = *next++ * (half ? 2 : 1);
    part.mean_y_plus = *next++ * (half ? 2 : 1) / std::max(part.area, 1e-300);
  }
  return balance;
}

Coefficients coefficients(const Load& l, const ReferenceValues& r) {
  const double qa = r.dynamic_pressure() * r.frontal_area, qal = qa * r.length;
  return {l.force.x / qa,    l.force.z / qa,   l.force.y / qa,
          -l.moment.x / qal, l.moment.y / qal, -l.moment.z / qal};
}

double tunnel_momentum_drag(const FlowState& s, bool half, double ahead_of) {
  double sum = 0;
  const double nu = s.flow_case.air.kinematic_viscosity;
  s.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (b.centre.x > ahead_of) return;
    const auto c = at(b.cell);
    const double phi = s.boundary_flux[i], mu = nu + s.nu_t[c];
    if (bc.kind == ConditionKind::stream) {
      const Vec3 d = b.centre - s.mesh.centre[c], aside = d - b.normal * b.height,
                 du = s.boundary_velocity[i] - s.u[c];
      const Vec3 stress = (du - s.grad_u[c] * aside) * (mu * b.size / b.height) +
                          transposed_times(s.grad_u[c], b.area) * mu;
      sum -= phi * s.boundary_velocity[i].x + s.boundary_pressure[i] * b.area.x - stress.x;
    } else if (bc.kind == ConditionKind::outflow) {
      const double ux = phi < 0 ? b.normal.x * dot(b.normal, s.u[c]) : s.u[c].x;
      sum -= phi * ux + s.boundary_pressure[i] * b.area.x -
             transposed_times(s.grad_u[c], b.area).x * mu;
    } else if (bc.kind == ConditionKind::slip) {
      sum -= s.boundary_pressure[i] * b.area.x +
             b.normal.x * dot(b.normal, s.u[c]) * 2 * mu * b.size / b.height;
    }
  });
  // Walls that are not the vehicle: the road.
  const auto loads = s.wall_loads();
  for (std::size_t p = 0; p < s.mesh.boundaries.size(); ++p)
    if (s.mesh.boundaries[p].kind != BoundaryKind::part &&
        s.flow_case.conditions[p].kind == ConditionKind::wall)
      for (int i = s.mesh.boundaries[p].first;
           i < s.mesh.boundaries[p].first + s.mesh.boundaries[p].count; ++i)
        if (s.mesh.boundary_faces[at(i)].centre.x <= ahead_of)
          sum -= (loads[at(i)].pressure.x + loads[at(i)].friction.x) / s.flow_case.air.density;
  return s.comm.sum(sum) * s.flow_case.air.density * (half ? 2 : 1);
}

}  // namespace dunefield
