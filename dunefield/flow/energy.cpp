#include <dunefield/flow/energy.hpp>

namespace dunefield {

Energy::Energy(FlowState& state)
    : s_(state),
      transport_(state, {{{&Fields::enthalpy, state.stream_enthalpy()}}}, {}),
      wall_source_(at(state.mesh.own)),
      wall_rate_(at(state.mesh.own)) {}

void Energy::solve(double courant) {
  const FastAir& gas = *s_.flow_case.fast;
  transport_.find_gradients();
  for (std::size_t c = 0; c < at(s_.mesh.cells); ++c)
    transport_.gamma[0][c] =
        s_.viscosity[c] / gas.prandtl + s_.density[c] * s_.nu_t[c] / gas.turbulent_prandtl;
  transport_.assemble();
  add_walls();
  for (std::size_t c = 0; c < at(s_.mesh.own); ++c)
    transport_.set(c, 0, wall_source_[c], transport_.rate(c, courant) + wall_rate_[c]);
  transport_.solve();
  s_.halo.refresh(s_.enthalpy);
}

void Energy::add_walls() {
  std::fill(wall_source_.begin(), wall_source_.end(), 0.0);
  std::fill(wall_rate_.begin(), wall_rate_.end(), 0.0);
  const FastAir& gas = *s_.flow_case.fast;
  s_.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != ConditionKind::wall) return;
    const auto c = at(b.cell);
    if (!bc.temperature) {
      wall_source_[c] += bc.heat_flux * b.size / s_.flow_case.air.density;
      return;
    }
    const bool laminar = s_.nu_t[c] <= s_.kinematic_viscosity(c);
    const double conductance =
        s_.wall_factor[i] * b.size / (laminar ? gas.prandtl : gas.turbulent_prandtl);
    wall_source_[c] += conductance * gas.cp() * (*bc.temperature - s_.temperature[c]);
    wall_rate_[c] += conductance;
  });
}

}  // namespace dunefield
