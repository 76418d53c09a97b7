#include <dunefield/sensitivity/frozen_flow.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/flow/boundary_momentum.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

const FlowCase& covered(const FlowCase& c) {
  const char* what = c.fast               ? "air that changes its density"
                     : !c.devices.empty() ? "cores and fans"
                                          : nullptr;
  for (const BoundaryCondition& bc : c.conditions)
    if (bc.of_vehicle) what = "openings of the vehicle";
  if (what)
    throw InputError(std::string("sensitivities do not cover ") + what, "sensitivity",
                     "leave it out of the campaign");
  return c;
}

}  // namespace

double dot(const FlowVector& a, const FlowVector& b) {
  return parallel_sum(a.u.size(),
                      [&](std::size_t c) { return dot(a.u[c], b.u[c]) + a.p[c] * b.p[c]; });
}

void add(FlowVector& a, double factor, const FlowVector& b) {
  parallel_for(a.u.size(),
               [&](std::size_t c) { a.u[c] += b.u[c] * factor, a.p[c] += b.p[c] * factor; });
}

FrozenFlow::FrozenFlow(const FlowMesh& mesh, const FlowCase& flow_case, Communicator& comm,
                       const Fields& fields)
    : state_(mesh, covered(flow_case), comm), momentum_(state_), continuity_(state_) {
  for_each_field([&](const auto& field) {
    if (!(fields.*field.values).empty() && !(state_.*field.values).empty())
      state_.*field.values = fields.*field.values;
  });
  // The share of a wall's slip that gradients see follows from those gradients: a few rounds.
  for (int i = 0; i < 3; ++i) {
    state_.update_velocity_gradient();
    state_.update_wall_shear();
  }
  wall_slope_ = state_.wall_slope;
  // So do the diagonal's fluxes.
  state_.update_pressure_gradients();
  volume_over_a_.assign(at(mesh.cells), 0.0);
  for (int i = 0; i < 3; ++i) {
    evaluate();
    momentum_.solve({1e6, 1e6, 1e6, 1}, 1);
    volume_over_a_ = momentum_.volume_over_a();
  }
}

FlowVector FrozenFlow::point() const {
  FlowVector x;
  x.u = state_.u, x.p = state_.p;
  return x;
}

void FrozenFlow::evaluate() {
  state_.wall_slope = wall_slope_;
  state_.update_velocity_gradient();
  state_.update_wall_shear();
  state_.wall_slope = wall_slope_;
  state_.update_pressure_gradients();
  parallel_for(state_.mesh.faces(), [&](std::size_t f) {
    state_.flux[f] = interpolated_flux(state_, f, volume_over_a_);
  });
  state_.for_boundary(
      [&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
        if (bc.kind == ConditionKind::outflow)
          state_.boundary_flux[i] = outflow_flux(state_, b, bc, volume_over_a_);
      });
}

FlowVector FrozenFlow::residual(const FlowVector& x) {
  const FlowMesh& m = state_.mesh;
  state_.u = x.u, state_.p = x.p;
  evaluate();
  momentum_.assemble();
  FlowVector r(at(m.own));
  std::copy_n(momentum_.residual().begin(), m.own, r.u.begin());
  for (std::size_t f = 0; f < m.faces(); ++f)
    r.p[at(m.below[f])] -= state_.flux[f], r.p[at(m.above[f])] += state_.flux[f];
  for (std::size_t i = 0; i < m.boundary_faces.size(); ++i)
    r.p[at(m.boundary_faces[i].cell)] -= state_.boundary_flux[i];
  for (const PinchedCell& pinched : state_.gradients.pinched())
    r.u[at(pinched.cell)] += pinched.across * dot(pinched.across, state_.u[at(pinched.cell)]);
  return r;
}

std::vector<double> weighted_loads(const FlowState& s, const WallWeight& weight) {
  std::vector<double> loads(s.mesh.boundary_faces.size(), 0.0);
  for (std::size_t p = 0; p < s.mesh.boundaries.size(); ++p) {
    const Boundary& wall = s.mesh.boundaries[p];
    const BoundaryCondition& bc = s.flow_case.conditions[p];
    if (wall.kind != BoundaryKind::part || bc.kind != ConditionKind::wall) continue;
    for (int i = wall.first; i < wall.first + wall.count; ++i) {
      const auto& b = s.mesh.boundary_faces[at(i)];
      loads[at(i)] = dot(weight.at_place(b.centre), b.area * s.boundary_pressure[at(i)] +
                                                        b.warp * s.grad_p[at(b.cell)] -
                                                        boundary_momentum(s, at(i), b, bc).stress);
    }
  }
  return loads;
}

double weighted_load(const FlowState& s, const WallWeight& weight) {
  double sum = 0;
  for (const double l : weighted_loads(s, weight)) sum += l;
  return sum;
}

}  // namespace dunefield
