#include <dunefield/mesh/octree/sized_octree.hpp>

#include <algorithm>
#include <cmath>

#include <unistd.h>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/octree/sizing.hpp>

namespace dunefield {
namespace {

/// Leaves for which this machine has memory, all stages of meshing counted.
double most_leaves() {
  constexpr double bytes_per_leaf = 1500;  // peak of `mesh_table` over its leaves, and a little
  return static_cast<double>(sysconf(_SC_PHYS_PAGES)) *
         static_cast<double>(sysconf(_SC_PAGE_SIZE)) / bytes_per_leaf;
}

Octree make_octree(const Box& tunnel, const MeshOptions& o, double smallest) {
  int coarser = 0, finer = 0;
  while (o.surface_size * (2 << coarser) <= o.largest_size * 1.001 && coarser < 10) ++coarser;
  while (o.surface_size / (1 << finer) > smallest * 1.001 && finer < 8) ++finer;
  const double root = o.surface_size * (1 << coarser);
  Lattice roots;
  Vec3 origin = tunnel.lo;
  for (std::size_t i = 0; i < 3; ++i) {
    const double size = tunnel.size()[static_cast<int>(i)];
    roots[i] = std::max(1, static_cast<int>(std::ceil(size / root - 1e-6)));
    // The surplus is shared by both ends, but road and centre plane stay where they are.
    if (i == 0 || (i == 1 && !o.half))
      origin[static_cast<int>(i)] -= 0.5 * (roots[i] * root - size);
    if (i == 1 && o.half) origin.y = 0;
  }
  origin.x += o.lattice_shift.x * o.surface_size;
  if (!o.half) origin.y += o.lattice_shift.y * o.surface_size;
  const int levels = coarser + finer;
  for (const int r : roots)
    if ((static_cast<double>(r) * std::pow(2.0, levels)) > 2e6)
      throw InputError("the smallest size is too small for a tunnel of this size", "mesh",
                       "raise it or shorten the tunnel");
  const double count = static_cast<double>(roots[0]) * roots[1] * roots[2];
  if (count > most_leaves())
    throw InputError(fmt::format("more than {:.0f} million cells would be needed, for which this "
                                 "machine has not enough memory",
                                 1e-6 * count),
                     "mesh", "use larger sizes");
  return Octree(origin, root, levels, roots);
}

std::vector<int> numbers_of(const Surface& vehicle, const std::vector<std::string>& names) {
  std::vector<int> out;
  for (const auto& n : names) {
    const int p = vehicle.find_part(n);
    if (p < 0)
      throw InputError("there is no part '" + n + "' to stand on the road", "mesh",
                       "check its name");
    out.push_back(p);
  }
  return out;
}

}  // namespace

void refuse_contradictions(const MeshOptions& o, const Surface& vehicle, const Box& tunnel) {
  if (!(o.surface_size > 0) || !(o.largest_size >= o.surface_size))
    throw InputError("the surface size must be positive and not above the largest size", "mesh",
                     "check the sizes");
  if (vehicle.size() > 0 && o.surface_size > norm(bounds(vehicle).size()))
    throw InputError("the surface size is larger than the vehicle", "mesh", "make it smaller");
  if (vehicle.size() > 0 && o.smallest_size > norm(bounds(vehicle).size()))
    throw InputError("the smallest size is larger than the vehicle", "mesh",
                     "make it smaller, or as large as the surface size to turn it off");
  for (const auto& [part, size] : o.part_size) {
    if (vehicle.find_part(part) < 0)
      throw InputError("a size is given for part '" + part + "', which does not exist", "mesh",
                       "check its name");
    if (!(size > 0))
      throw InputError("the size of part '" + part + "' is not positive", "mesh", "check it");
  }
  for (const auto& b : o.boxes) {
    if (!(b.size > 0))
      throw InputError("the size in box '" + b.name + "' is not positive", "mesh", "check it");
    for (int i = 0; i < 3; ++i)
      if (b.box.hi[i] < tunnel.lo[i] || b.box.lo[i] > tunnel.hi[i])
        throw InputError("box '" + b.name + "' lies outside the tunnel", "mesh", "move it");
  }
}

double joining_distance(const MeshOptions& o) {
  constexpr double same_edge = 0.02;  // of the smallest leaf
  return same_edge *
         (o.smallest_size > 0 ? std::min(o.smallest_size, o.surface_size) : o.surface_size);
}

double gap_leaf(const MeshOptions& o) {
  return o.slot_halvings > 0 ? o.smallest_size / std::exp2(o.slot_halvings) : 0;
}

SolidField solid_of(const Surface& vehicle, const MeshOptions& o) {
  return {vehicle, numbers_of(vehicle, o.standing_parts), o.plinth_cells * o.surface_size,
          numbers_of(vehicle, o.sheet_parts)};
}

Octree sized_octree(const Surface& vehicle, const Box& tunnel, const SolidField& solid,
                    const MeshOptions& o, const Progress& progress) {
  const Sizing sizing(vehicle, solid, o);
  Octree octree = make_octree(
      tunnel, o, gap_leaf(o) > 0 ? std::min(sizing.smallest(), gap_leaf(o)) : sizing.smallest());
  octree.refine(
      [&](const Octree::Leaf& leaf) {
        return sizing.too_large(octree.centre(leaf), octree.size(leaf));
      },
      most_leaves(), progress);
  octree.balance();
  return octree;
}

}  // namespace dunefield
