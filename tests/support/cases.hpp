// Small flow cases for tests: conditions by name, and a solve on any number of ranks.
#pragma once

#include <functional>

#include <dunefield/balance/balance.hpp>
#include <dunefield/flow/flow_solver.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield::test {

BoundaryCondition stream(const Vec3& velocity);
BoundaryCondition stream(std::function<Vec3(const Vec3&)> profile);
BoundaryCondition outflow();
BoundaryCondition slip();
BoundaryCondition wall(const Vec3& velocity = {});
BoundaryCondition wall(std::function<Vec3(const Vec3&)> profile);

/// Laminar, unit density, reference speed and length one.
FlowCase laminar(double nu, std::vector<BoundaryCondition> conditions);

/// SST, a body at rest in a stream above a road that moves with it.
FlowCase road_case(const VolumeMesh& mesh, double speed);

struct Solution {
  Fields fields;
  Balance balance;           ///< whole model, vehicle parts only
  double momentum_drag = 0;  ///< N
  double mass_balance = 0;
  double residual = 0;             ///< of the last iteration
  std::vector<double> cd_history;  ///< body drag in N
};

/// Iterates until the momentum residual is below `residual` or `most` iterations are done.
Solution solve(const VolumeMesh& mesh, const FlowCase& flow_case, int most, double residual = 1e-9,
               int ranks = 2);
/// The same on a communicator the caller has; the solution is complete on rank 0.
Solution solve_on(Communicator& comm, const VolumeMesh* mesh, const FlowCase& flow_case, int most,
                  double residual = 1e-9);

/// Runs `visit` on one rank with the state of a case whose pressure is set to `pressure`, without
/// solving.
void with_pressure(const VolumeMesh& mesh, const FlowCase& flow_case,
                   const std::function<double(const Vec3&)>& pressure,
                   const std::function<void(const FlowState&)>& visit);

/// Volume-weighted root mean square of the difference between a cell field and a function of place.
double rms_error(const VolumeMesh& mesh, const std::vector<Vec3>& field,
                 const std::function<Vec3(const Vec3&)>& exact);
double rms_error(const VolumeMesh& mesh, const std::vector<double>& field,
                 const std::function<double(const Vec3&)>& exact);

/// Velocity u at a height on the vertical centre line of a cavity of n x n cells, n even; linear
/// between cell centres.
double centre_line(const VolumeMesh& mesh, const std::vector<Vec3>& u, int n, double y);

/// A sphere of diameter 1 in a wide tunnel, with a refined wake: about 80 000 cells.
MeshResult sphere_mesh(double surface_size);
FlowCase sphere_case(const VolumeMesh& mesh, double reynolds);

}  // namespace dunefield::test
