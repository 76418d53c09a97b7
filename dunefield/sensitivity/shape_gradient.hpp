// What a displacement of the mesh changes of a load, by the adjoint.
#pragma once

#include <string>
#include <vector>

#include <dunefield/mesh/volume_mesh.hpp>
#include <dunefield/sensitivity/adjoint.hpp>

namespace dunefield {

/// A flow and its adjoints for a load, on a mesh.
struct AdjointFlow {
  const VolumeMesh& mesh;
  const FlowCase& flow_case;
  const Fields& fields;
  const std::vector<double>& wall_distance;
  WallWeight weight;
  const std::vector<Adjoint>& adjoints;
};

/// Change of the load over density (m4/s2) per unit of a displacement of the mesh's points, of each
/// adjoint, by central differences of the equations on the moved mesh in the same flow.
std::vector<double> displacement_gradient(const AdjointFlow& flow,
                                          const std::vector<Vec3>& displacement);

/// The equations in the same flow on a mesh that is moved by a share of a displacement: what they
/// leave, and the loads by boundary face.
struct MovedFlow {
  FlowVector residual;
  std::vector<double> loads;
};
MovedFlow moved_flow(const AdjointFlow& flow, const std::vector<Vec3>& displacement, double share);

/// The share of a displacement over which differences are taken: a thousandth of the edges at the
/// points that move.
double difference_step(const VolumeMesh& mesh, const std::vector<Vec3>& displacement);

}  // namespace dunefield
