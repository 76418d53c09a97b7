#include <dunefield/record/mapping.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/cell_finder.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

Fields mapped(const VolumeMesh& from, const Fields& fields, const VolumeMesh& to) {
  const CellFinder finder(from);
  Fields out;
  for_each_field([&](const auto& field) {
    if (!(fields.*field.values).empty()) (out.*field.values).resize(at(to.cells));
  });
  parallel_for(
      at(to.cells),
      [&](std::size_t c) {
        const Vec3& place = to.cell_centre[c];
        finder.weigh(finder.nearest(place), place, [&](int cell, double weight) {
          for_each_field([&](const auto& field) {
            if (!(out.*field.values).empty())
              (out.*field.values)[c] += (fields.*field.values)[at(cell)] * weight;
          });
        });
      },
      256);
  return out;
}

}  // namespace dunefield
