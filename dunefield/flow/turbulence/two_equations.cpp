#include <dunefield/flow/turbulence/two_equations.hpp>

#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {
namespace {

std::array<ScalarTransport<2>::Quantity, 2> quantities(FlowState& s, bool dissipation) {
  const StreamTurbulence& stream = s.flow_case.options.stream_turbulence;
  const double fluctuation = stream.intensity * s.flow_case.reference_speed;
  const double k = 1.5 * fluctuation * fluctuation;
  const double omega = k / (stream.viscosity_ratio * s.flow_case.air.kinematic_viscosity);
  return {{{&Fields::k, k},
           {dissipation ? &Fields::epsilon : &Fields::omega,
            dissipation ? wall_law::c_mu * k * omega : omega, !dissipation}}};
}

}  // namespace

double strain_squared(const Mat3& g) {
  const double xx = g.row[0].x, yy = g.row[1].y, zz = g.row[2].z;
  const double xy = g.row[0].y + g.row[1].x, xz = g.row[0].z + g.row[2].x,
               yz = g.row[1].z + g.row[2].y;
  return 2 * (xx * xx + yy * yy + zz * zz) + xy * xy + xz * xz + yz * yz;
}

TwoEquations::TwoEquations(FlowState& state, bool dissipation)
    : s_(state),
      transport_(state, quantities(state, dissipation), state.flow_case.options.turbulence_source),
      strain2_(at(state.mesh.cells)),
      wall_cells_(state),
      at_wall_(wall_cells_.count()) {}

void TwoEquations::update_wall_cells() {
  std::fill(at_wall_.begin(), at_wall_.end(), AtWall{});
  wall_cells_.for_faces(
      s_, [&](std::size_t cell, double part, std::size_t i, const FlowMesh::BoundaryFace& b) {
        AtWall& w = at_wall_[cell];
        const double nu = s_.kinematic_viscosity(at(b.cell));
        const double y = b.height, scale = s_.wall_scale[i];
        const double slip = norm(s_.wall_slip[i]), strain = s_.wall_slope[i] * slip / y;
        w.q += part * wall_value(at(b.cell), y, scale);
        // Turbulent stress times velocity gradient, both of the law's profile: a straight line to
        // the wall would miss the gradient many times.
        w.production +=
            part * std::max(s_.wall_factor[i] / s_.weight(at(b.cell)) * slip - nu * strain, 0.0) *
            strain;
      });
}

void TwoEquations::solve(double courant) {
  transport_.find_gradients();
  const StageClock::Scope timed(s_.clock, Stage::turbulence);
  prepare();
  if (s_.fast())
    for (auto& gamma : transport_.gamma)
      for (std::size_t c = 0; c < gamma.size(); ++c) gamma[c] *= s_.density[c];
  update_wall_cells();
  transport_.assemble();
  add_sources(courant);
  transport_.solve();
}

}  // namespace dunefield
