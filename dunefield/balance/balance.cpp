#include <dunefield/balance/balance.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/boundary_momentum.hpp>

namespace dunefield {
namespace {

/// What this rank's faces of the tunnel take from the stream, over density.
double own_momentum_loss(const FlowState& s, double ahead_of) {
  double sum = 0;
  for (std::size_t p = 0; p < s.mesh.boundaries.size(); ++p) {
    const BoundaryCondition& bc = s.flow_case.conditions[p];
    const Boundary& side = s.mesh.boundaries[p];
    if (bc.kind == ConditionKind::wall || bc.of_vehicle) continue;
    for (int i = side.first; i < side.first + side.count; ++i) {
      const FlowMesh::BoundaryFace& b = s.mesh.boundary_faces[at(i)];
      if (b.centre.x > ahead_of) continue;
      const BoundaryMomentum through = boundary_momentum(s, at(i), b, bc);
      sum -= s.boundary_flux[at(i)] * through.carried.x + s.boundary_pressure[at(i)] * b.area.x -
             through.stress.x;
    }
  }
  // Walls that are not the vehicle: the road.
  for (std::size_t p = 0; p < s.mesh.boundaries.size(); ++p) {
    const Boundary& wall = s.mesh.boundaries[p];
    if (wall.kind == BoundaryKind::part || s.flow_case.conditions[p].kind != ConditionKind::wall)
      continue;
    for (int i = wall.first; i < wall.first + wall.count; ++i)
      if (s.mesh.boundary_faces[at(i)].centre.x <= ahead_of)
        sum -= (s.loads[at(i)].pressure.x + s.loads[at(i)].friction.x) / s.flow_case.air.density;
  }
  return sum;
}

/// This rank's part of the loads, by part.
std::vector<PartLoad> own_parts(const FlowState& s) {
  std::vector<PartLoad> parts;
  for (const auto& boundary : s.mesh.boundaries) {
    if (boundary.kind != BoundaryKind::part) continue;
    parts.push_back({boundary.name, {}, {}, 0, 0});
    PartLoad& part = parts.back();
    for (int i = boundary.first; i < boundary.first + boundary.count; ++i) {
      const auto& b = s.mesh.boundary_faces[at(i)];
      const WallLoad& load = s.loads[at(i)];
      const Vec3 pressure = load.pressure - b.area * s.undisturbed_pressure;
      part.pressure += {pressure, cross(b.centre, pressure)};
      part.friction += {load.friction, cross(b.centre, load.friction)};
      part.area += b.size;
      part.mean_y_plus += b.size * load.y_plus;
    }
  }
  return parts;
}

/// Visits the numbers that are summed over ranks.
template <class Visit>
void visit_numbers(PartLoad& part, const Visit& visit) {
  for (Load* l : {&part.pressure, &part.friction})
    for (Vec3* v : {&l->force, &l->moment})
      for (int k = 0; k < 3; ++k) visit((*v)[k]);
  visit(part.area), visit(part.mean_y_plus);
}

/// The other half's load added to that of the half y >= 0.
void add_mirror_image(Load& l) {
  l.force = {2 * l.force.x, 0, 2 * l.force.z};
  l.moment = {0, 2 * l.moment.y, 0};
}

/// What acts inside the air is held by the vehicle: its force is one of a part.
void add_devices(const FlowState& s, bool half, Balance& balance) {
  balance.devices = s.devices->figures(s);
  for (std::size_t i = 0; i < balance.devices.size(); ++i) {
    DeviceFigures& d = balance.devices[i];
    PartLoad part{d.name, {d.force, cross(s.flow_case.devices[i].centre, d.force)}, {}, 0, 0};
    if (half) {
      add_mirror_image(part.pressure);
      d.mass_flow *= 2, d.area *= 2, d.heat *= 2, d.force = part.pressure.force;
    }
    balance.parts.push_back(part);
  }
}

/// What passes the vehicle's openings, as sums over this rank's faces that become means once they
/// are those of all ranks.
std::vector<DeviceFigures> own_openings(const FlowState& s) {
  std::vector<DeviceFigures> all;
  const double rho = s.flow_case.air.density;
  for (std::size_t p = 0; p < s.mesh.boundaries.size(); ++p) {
    const Boundary& side = s.mesh.boundaries[p];
    if (!s.flow_case.conditions[p].of_vehicle) continue;
    DeviceFigures d{side.name, 0, 0, 0, 0, {}, 0, 0};
    for (int i = side.first; i < side.first + side.count; ++i) {
      const double size = s.mesh.boundary_faces[at(i)].size, flux = s.boundary_flux[at(i)];
      d.mass_flow += rho * flux, d.area += size, d.spread += flux * flux / size;
      d.pressure_change += (rho * s.boundary_pressure[at(i)] - s.undisturbed_pressure) * size;
    }
    all.push_back(d);
  }
  return all;
}

/// The sums of all ranks as figures, with the force that the opening's part has.
void finish_opening(DeviceFigures& d, const std::vector<PartLoad>& parts, double density,
                    bool half) {
  if (!(d.area > 0)) return;
  d.mean_velocity = d.mass_flow / (density * d.area);
  d.spread = std::sqrt(std::max(0.0, d.spread / d.area - d.mean_velocity * d.mean_velocity));
  d.pressure_change /= d.area;
  for (const PartLoad& p : parts)
    if (p.part == d.name) d.force = p.total().force;
  if (half) d.mass_flow *= 2, d.area *= 2;
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
  balance.undisturbed_pressure = s.undisturbed_pressure;
  balance.parts = own_parts(s);
  std::vector<double> sums = {own_momentum_loss(s, 1e300)};
  for (PartLoad& part : balance.parts) visit_numbers(part, [&](double v) { sums.push_back(v); });
  std::vector<DeviceFigures> openings = own_openings(s);
  const auto visit_sums = [](DeviceFigures& d, const auto& visit) {
    for (double* v : {&d.mass_flow, &d.area, &d.spread, &d.pressure_change}) visit(*v);
  };
  for (DeviceFigures& d : openings) visit_sums(d, [&](double v) { sums.push_back(v); });
  s.comm.sum(std::span(sums));
  balance.momentum_drag = sums[0] * s.flow_case.air.density * (half ? 2 : 1);
  const double* next = sums.data() + 1;
  for (PartLoad& part : balance.parts) {
    visit_numbers(part, [&](double& v) { v = *next++; });
    if (half) {
      add_mirror_image(part.pressure), add_mirror_image(part.friction);
      part.area *= 2, part.mean_y_plus *= 2;
    }
    part.mean_y_plus /= std::max(part.area, 1e-300);
  }
  if (s.devices) add_devices(s, half, balance);
  for (DeviceFigures& d : openings) {
    visit_sums(d, [&](double& v) { v = *next++; });
    finish_opening(d, balance.parts, s.flow_case.air.density, half);
    balance.devices.push_back(d);
  }
  return balance;
}

Coefficients coefficients(const Load& l, const ReferenceValues& r) {
  const double qa = r.dynamic_pressure() * r.frontal_area, qal = qa * r.length;
  return {l.force.x / qa,    l.force.z / qa,   l.force.y / qa,
          -l.moment.x / qal, l.moment.y / qal, -l.moment.z / qal};
}

double momentum_loss(const FlowState& s, bool half, double ahead_of) {
  return s.comm.sum(own_momentum_loss(s, ahead_of)) * s.flow_case.air.density * (half ? 2 : 1);
}

}  // namespace dunefield
