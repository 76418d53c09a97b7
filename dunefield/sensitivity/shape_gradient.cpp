#include <dunefield/sensitivity/shape_gradient.hpp>

#include <algorithm>
#include <numeric>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr double share_of_edge = 1e-3;  // that points move for differences

double smallest_edge_over_way(const VolumeMesh& m, const std::vector<Vec3>& way) {
  double least = 1e300;
  for (std::size_t f = 0; f < at(m.faces()); ++f)
    for (int k = m.face_start[f]; k < m.face_start[f + 1]; ++k) {
      const int next = k + 1 < m.face_start[f + 1] ? k + 1 : m.face_start[f];
      const std::size_t a = at(m.face_points[at(k)]), b = at(m.face_points[at(next)]);
      const double moved = norm(way[a] - way[b]), length = norm(m.points[a] - m.points[b]);
      if (moved > 0) least = std::min(least, length / moved);
    }
  return least;
}

}  // namespace

MovedFlow moved_flow(const AdjointFlow& a, const std::vector<Vec3>& way, double share) {
  VolumeMesh mesh = a.mesh;
  for (std::size_t i = 0; i < mesh.points.size(); ++i) mesh.points[i] += way[i] * share;
  mesh.derive();
  SoloCommunicator solo;
  const FlowMesh own = distribute(&mesh, &a.wall_distance, solo);
  FrozenFlow flow(own, a.flow_case, solo, a.fields);
  MovedFlow out;
  out.residual = flow.residual();
  out.loads = weighted_loads(flow.state(), a.weight);
  return out;
}

double difference_step(const VolumeMesh& m, const std::vector<Vec3>& way) {
  return share_of_edge * smallest_edge_over_way(m, way);
}

std::vector<double> displacement_gradient(const AdjointFlow& a, const std::vector<Vec3>& way) {
  const double step = difference_step(a.mesh, way);
  const MovedFlow there = moved_flow(a, way, step), back = moved_flow(a, way, -step);
  std::vector<double> gradient;
  const auto sum = [](const std::vector<double>& v) {
    return std::accumulate(v.begin(), v.end(), 0.0);
  };
  for (const Adjoint& adjoint : a.adjoints)
    gradient.push_back((sum(there.loads) - sum(back.loads) + dot(adjoint.lambda, there.residual) -
                        dot(adjoint.lambda, back.residual)) /
                       (2 * step));
  return gradient;
}

}  // namespace dunefield
