#include <dunefield/flow/flow_mesh.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/flow/conditions.hpp>
#include <dunefield/flow/mesh_share.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/mesh/wall_triangles.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

template <class Visit>
void visit_arrays(Share& s, const Visit& visit) {
  visit(s.centre), visit(s.across), visit(s.volume), visit(s.wall_distance), visit(s.below),
      visit(s.above), visit(s.area), visit(s.skew), visit(s.weight), visit(s.g), visit(s.lateral),
      visit(s.boundary_faces), visit(s.warped);
  visit(s.boundary_counts), visit(s.neighbour_ranks), visit(s.send_counts), visit(s.send_cells),
      visit(s.received);
}

std::vector<Boundary> share_boundaries(const VolumeMesh* mesh, Communicator& comm) {
  std::vector<char> names;
  std::vector<int> kinds;
  if (comm.rank() == 0)
    for (const Boundary& p : mesh->boundaries) {
      names.insert(names.end(), p.name.begin(), p.name.end());
      names.push_back('\0');
      kinds.push_back(static_cast<int>(p.kind));
    }
  if (comm.rank() == 0)
    for (int r = 1; r < comm.size(); ++r) comm.send_vector(r, names), comm.send_vector(r, kinds);
  else
    names = comm.receive_vector<char>(0), kinds = comm.receive_vector<int>(0);
  std::vector<Boundary> boundaries;
  const char* name = names.data();
  for (const int kind : kinds) {
    boundaries.push_back({name, static_cast<BoundaryKind>(kind), 0, 0});
    name += boundaries.back().name.size() + 1;
  }
  return boundaries;
}

/// A share with what follows from it.
FlowMesh flow_mesh(Share s, std::vector<Boundary> boundaries) {
  FlowMesh out;
  out.own = s.own, out.cells = static_cast<int>(s.centre.size()), out.first_global = s.first_global;
  out.centre = std::move(s.centre), out.across = std::move(s.across),
  out.volume = std::move(s.volume), out.wall_distance = std::move(s.wall_distance);
  for (const double v : out.volume) out.side2.push_back(std::pow(v, 2.0 / 3));
  out.below = std::move(s.below), out.above = std::move(s.above), out.area = std::move(s.area),
  out.skew = std::move(s.skew);
  out.weight = std::move(s.weight), out.g = std::move(s.g), out.lateral = std::move(s.lateral),
  out.boundary_faces = std::move(s.boundary_faces), out.warped = std::move(s.warped);
  int first = 0;
  for (std::size_t p = 0; p < boundaries.size(); ++p) {
    boundaries[p].first = first, boundaries[p].count = s.boundary_counts[p];
    first += s.boundary_counts[p];
  }
  out.boundaries = std::move(boundaries);
  out.graph = make_graph(out.own, out.cells, out.below, out.above, out.slots);
  int next_halo = out.own, next_send = 0;
  for (std::size_t i = 0; i < s.neighbour_ranks.size(); ++i) {
    HaloPlan::Neighbour n{s.neighbour_ranks[i], {}, next_halo, s.received[i]};
    n.send.assign(s.send_cells.begin() + next_send,
                  s.send_cells.begin() + next_send + s.send_counts[i]);
    next_halo += s.received[i], next_send += s.send_counts[i];
    out.halo_plan.neighbours.push_back(std::move(n));
  }
  return out;
}

}  // namespace

FlowMesh distribute(const VolumeMesh* mesh, const std::vector<double>* wall_distance,
                    Communicator& comm) {
  std::vector<Boundary> boundaries = share_boundaries(mesh, comm);
  Share s;
  int numbers[2];
  if (comm.rank() == 0) {
    if (mesh->cells < comm.size())
      throw InputError(fmt::format("{} ranks for a mesh of {} cells", comm.size(), mesh->cells),
                       "ranks", "use fewer ranks");
    const MeshPartition partition(*mesh, *wall_distance, comm.size());
    for (int r = comm.size() - 1; r >= 0; --r) {
      s = partition.share(r);
      if (r == 0) break;
      visit_arrays(s, [&](auto& v) { comm.send_vector(r, v); });
      numbers[0] = s.own, numbers[1] = s.first_global;
      comm.send(r, std::span<const int>(numbers));
    }
  } else {
    visit_arrays(s, [&](auto& v) {
      v = comm.receive_vector<typename std::decay_t<decltype(v)>::value_type>(0);
    });
    comm.receive(0, std::span<int>(numbers));
    s.own = numbers[0], s.first_global = numbers[1];
  }
  return flow_mesh(std::move(s), std::move(boundaries));
}

std::vector<double> wall_distances(const VolumeMesh& m, const std::vector<bool>& boundary_is_wall) {
  const Surface walls = wall_triangles(m, [&](const Boundary& p) {
                          return boundary_is_wall[at(&p - m.boundaries.data())];
                        }).surface;
  constexpr double huge = 1e6;  // m; stands for no wall at all
  std::vector<double> distance(at(m.cells), huge);
  if (walls.size() == 0) return distance;
  const NearestTree tree(walls);
  parallel_for(
      distance.size(),
      [&](std::size_t c) {
        distance[c] = std::max(tree.nearest(m.cell_centre[c], huge).distance, 1e-9);
      },
      256);
  return distance;
}

std::vector<double> wall_distances(const VolumeMesh& mesh,
                                   const std::vector<BoundaryCondition>& conditions) {
  std::vector<bool> walls;
  for (const BoundaryCondition& c : conditions) walls.push_back(c.kind == ConditionKind::wall);
  return wall_distances(mesh, walls);
}

}  // namespace dunefield
