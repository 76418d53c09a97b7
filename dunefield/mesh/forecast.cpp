#include <dunefield/mesh/forecast.hpp>

#include <algorithm>

#include <dunefield/geometry/open_edges.hpp>
#include <dunefield/mesh/octree/sized_octree.hpp>
#include <dunefield/mesh/planar/section_mesher.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

double predict_cells(const Surface& as_given, const Box& tunnel, const MeshOptions& o) {
  refuse_contradictions(o, as_given, tunnel);
  if (o.section) return build_section_mesh(as_given, tunnel, o).mesh.cells;  // takes no time
  Surface vehicle = as_given;
  join_open_edges(vehicle, joining_distance(o));
  const SolidField solid = solid_of(vehicle, o);
  const Octree octree = sized_octree(vehicle, tunnel, solid, o);
  // A leaf in the air makes about a cell; one that the surface crosses about half of one, and a
  // wall face.
  // Every seventh leaf tells enough of many; every eighth would be the same one of all siblings.
  constexpr std::size_t many = 50'000, seventh = 7;
  const std::size_t step = octree.leaves().size() > many ? seventh : 1,
                    n = (octree.leaves().size() + step - 1) / step;
  std::vector<char> kind(n);
  enum : char { air, crossed, inside };
  parallel_for(
      n,
      [&](std::size_t i) {
        const auto& leaf = octree.leaves()[i * step];
        const Vec3 c = octree.centre(leaf);
        if (solid.surface_near(c, 0.5 * octree.size(leaf)))
          kind[i] = crossed;
        else
          kind[i] = solid.inside(c, 0) ? inside : air;
      },
      1024);
  const auto count = [&](char k) {
    return static_cast<double>(step) * static_cast<double>(std::count(kind.begin(), kind.end(), k));
  };
  constexpr double hanging = 1.06;  // vertices where sizes change
  return hanging * count(air) + (0.6 + 1.1 * o.layers.count) * count(crossed);
}

std::vector<Cavity> find_cavities(const Surface& as_given, const Box& tunnel,
                                  const MeshOptions& o) {
  refuse_contradictions(o, as_given, tunnel);
  if (o.section || !(o.closed_opening > 0)) return {};
  Surface vehicle = as_given;
  join_open_edges(vehicle, joining_distance(o));
  const SolidField solid = solid_of(vehicle, o);
  const Octree octree = sized_octree(vehicle, tunnel, solid, o);
  DualGrid grid = make_dual_grid(octree, solid, {});
  return close_cavities(octree, solid, o.closed_opening * o.surface_size, grid);
}

}  // namespace dunefield
