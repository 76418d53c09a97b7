// A ball in a small tunnel for some iterations: enough to see whether two ways of running it give
// the same bits.
#pragma once

#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {

/// Collective; the last drag in N on rank 0.
inline double small_case_drag(Communicator& comm) {
  VolumeMesh mesh;
  if (comm.rank() == 0) {
    MeshOptions o;
    o.surface_size = 0.08, o.largest_size = 0.64;
    mesh =
        build_mesh(sphere("ball", {0, 0, 1}, 0.4, 32), Box{{-2, -1.5, 0}, {4, 1.5, 2.5}}, o).mesh;
  }
  FlowCase c = laminar(
      1.5e-5, {stream({10, 0, 0}), outflow(), slip(), slip(), wall({10, 0, 0}), slip(), wall()});
  c.options.turbulence = TurbulenceModel::sst;
  c.reference_speed = 10;
  c.initial_velocity = {10, 0, 0};
  const Solution s = solve_on(comm, comm.rank() == 0 ? &mesh : nullptr, c, 25, 0);
  return s.cd_history.back();
}

}  // namespace dunefield::test
