#include <dunefield/record/mapping.hpp>

#include <dunefield/mesh/cell_finder.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

FlowFields mapped(const VolumeMesh& from, const FlowFields& fields, const VolumeMesh& to) {
  const CellFinder finder(from);
  const auto cells = static_cast<std::size_t>(to.cells);
  FlowFields out;
  out.velocity.resize(cells);
  const std::vector<double>* given[] = {&fields.pressure, &fields.k, &fields.omega,
                                        &fields.nu_tilde, &fields.nu_t};
  std::vector<double>* wanted[] = {&out.pressure, &out.k, &out.omega, &out.nu_tilde, &out.nu_t};
  for (std::size_t i = 0; i < std::size(given); ++i)
    wanted[i]->resize(given[i]->empty() ? 0 : cells);
  parallel_for(
      cells,
      [&](std::size_t c) {
        const Vec3& place = to.cell_centre[c];
        finder.weigh(finder.nearest(place), place, [&](int cell, double weight) {
          const auto s = static_cast<std::size_t>(cell);
          out.velocity[c] += fields.velocity[s] * weight;
          for (std::size_t i = 0; i < std::size(given); ++i)
            if (!given[i]->empty()) (*wanted[i])[c] += (*given[i])[s] * weight;
        });
      },
      256);
  return out;
}

}  // namespace dunefield
