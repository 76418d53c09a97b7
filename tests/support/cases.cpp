#include "cases.hpp"

#include <cmath>

#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield::test {
namespace {

BoundaryCondition condition(ConditionKind kind, const Vec3& velocity = {}) {
  BoundaryCondition bc;
  bc.kind = kind;
  bc.velocity = velocity;
  return bc;
}

BoundaryCondition with_profile(BoundaryCondition bc, std::function<Vec3(const Vec3&)> profile) {
  bc.profile = std::move(profile);
  return bc;
}

std::vector<double> distances(const VolumeMesh& mesh, const FlowCase& flow_case) {
  std::vector<bool> walls;
  for (const auto& bc : flow_case.conditions) walls.push_back(bc.kind == ConditionKind::wall);
  return wall_distances(mesh, walls);
}

}  // namespace

BoundaryCondition stream(const Vec3& velocity) {
  return condition(ConditionKind::stream, velocity);
}
BoundaryCondition stream(std::function<Vec3(const Vec3&)> profile) {
  return with_profile(condition(ConditionKind::stream), std::move(profile));
}
BoundaryCondition outflow() { return condition(ConditionKind::outflow); }
BoundaryCondition slip() { return condition(ConditionKind::slip); }
BoundaryCondition wall(const Vec3& velocity) { return condition(ConditionKind::wall, velocity); }
BoundaryCondition wall(std::function<Vec3(const Vec3&)> profile) {
  return with_profile(condition(ConditionKind::wall), std::move(profile));
}

FlowCase laminar(double nu, std::vector<BoundaryCondition> conditions) {
  FlowCase c;
  c.air = {1, nu};
  c.conditions = std::move(conditions);
  c.options.turbulence = TurbulenceModel::laminar;
  c.options.courant = 20;
  return c;
}

FlowCase road_case(const VolumeMesh& mesh, double speed) {
  FlowCase c;
  c.reference_speed = speed, c.initial_velocity = {speed, 0, 0};
  for (const Boundary& p : mesh.boundaries) {
    if (p.kind == BoundaryKind::inflow)
      c.conditions.push_back(stream({speed, 0, 0}));
    else if (p.kind == BoundaryKind::outflow)
      c.conditions.push_back(outflow());
    else if (p.kind == BoundaryKind::road)
      c.conditions.push_back(wall({speed, 0, 0}));
    else
      c.conditions.push_back(p.kind == BoundaryKind::part ? wall() : slip());
  }
  return c;
}

Solution solve_on(Communicator& comm, const VolumeMesh* mesh, const FlowCase& flow_case, int most,
                  double residual) {
  std::vector<double> distance;
  if (comm.rank() == 0) distance = distances(*mesh, flow_case);
  const FlowMesh share =
      distribute(comm.rank() == 0 ? mesh : nullptr, comm.rank() == 0 ? &distance : nullptr, comm);
  FlowSolver solver(share, flow_case, comm);
  solver.start();
  Solution s;
  for (int i = 0; i < most; ++i) {
    s.residual = solver.iterate().momentum_residual;
    s.cd_history.push_back(measure_balance(solver.state(), false).total().force.x);
    if (s.residual < residual) break;
  }
  solver.close_mass();
  s.balance = measure_balance(solver.state(), false);
  s.momentum_drag = s.balance.momentum_drag;
  s.mass_balance = solver.mass_balance();
  s.fields = solver.gather();
  return s;
}

Solution solve(const VolumeMesh& mesh, const FlowCase& flow_case, int most, double residual,
               int ranks) {
  Solution out;
  run_on_threads(ranks, [&](Communicator& comm) {
    Solution s = solve_on(comm, comm.rank() == 0 ? &mesh : nullptr, flow_case, most, residual);
    if (comm.rank() == 0) out = std::move(s);
  });
  return out;
}

void with_pressure(const VolumeMesh& mesh, const FlowCase& flow_case,
                   const std::function<double(const Vec3&)>& pressure,
                   const std::function<void(const FlowState&)>& visit) {
  SoloCommunicator solo;
  const auto distance = distances(mesh, flow_case);
  const FlowMesh share = distribute(&mesh, &distance, solo);
  FlowState state(share, flow_case, solo);
  for (std::size_t c = 0; c < state.p.size(); ++c) state.p[c] = pressure(share.centre[c]);
  state.update_pressure_gradients();
  state.update_loads();
  visit(state);
}

double rms_error(const VolumeMesh& mesh, const std::vector<Vec3>& field,
                 const std::function<Vec3(const Vec3&)>& exact) {
  double sum = 0, volume = 0;
  for (std::size_t c = 0; c < field.size(); ++c)
    sum += mesh.cell_volume[c] * norm2(field[c] - exact(mesh.cell_centre[c])),
        volume += mesh.cell_volume[c];
  return std::sqrt(sum / volume);
}

double rms_error(const VolumeMesh& mesh, const std::vector<double>& field,
                 const std::function<double(const Vec3&)>& exact) {
  double sum = 0, volume = 0;
  for (std::size_t c = 0; c < field.size(); ++c)
    sum += mesh.cell_volume[c] * std::pow(field[c] - exact(mesh.cell_centre[c]), 2),
        volume += mesh.cell_volume[c];
  return std::sqrt(sum / volume);
}

double centre_line(const VolumeMesh& mesh, const std::vector<Vec3>& u, int n, double y) {
  const auto value = [&](int j, double& at) {
    const auto left = static_cast<std::size_t>(j * n + n / 2 - 1);
    at = mesh.cell_centre[left].y;
    return 0.5 * (u[left].x + u[left + 1].x);
  };
  double y0 = 0, y1 = 0;
  for (int j = 0; j + 1 < n; ++j) {
    const double u0 = value(j, y0), u1 = value(j + 1, y1);
    if (y >= y0 && y <= y1) return u0 + (u1 - u0) * (y - y0) / (y1 - y0);
  }
  return 0;
}

MeshResult sphere_mesh(double surface_size) {
  MeshOptions o;
  o.surface_size = surface_size;
  o.largest_size = surface_size * 32;
  o.spread = 5;
  o.boxes.push_back({"wake", Box{{-1, -0.9, 14.1}, {3.5, 0.9, 15.9}}, 2 * surface_size});
  return build_mesh(sphere("ball", {0, 0, 15}, 0.5, 96), Box{{-15, -15, 0}, {30, 15, 30}}, o);
}

FlowCase sphere_case(const VolumeMesh&, double reynolds) {
  FlowCase c =
      laminar(1 / reynolds, {stream({1, 0, 0}), outflow(), slip(), slip(), slip(), slip(), wall()});
  c.initial_velocity = {1, 0, 0};
  return c;
}

}  // namespace dunefield::test
