#include <dunefield/mesh/octree/octree.hpp>

#include <algorithm>
#include <atomic>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

std::uint64_t spread(std::uint64_t v) {
  v &= 0x1fffff;
  v = (v | v << 32) & 0x1f00000000ffffull;
  v = (v | v << 16) & 0x1f0000ff0000ffull;
  v = (v | v << 8) & 0x100f00f00f00f00full;
  v = (v | v << 4) & 0x10c30c30c30c30c3ull;
  return (v | v << 2) & 0x1249249249249249ull;
}

std::uint64_t gather(std::uint64_t v) {
  v &= 0x1249249249249249ull;
  v = (v | v >> 2) & 0x10c30c30c30c30c3ull;
  v = (v | v >> 4) & 0x100f00f00f00f00full;
  v = (v | v >> 8) & 0x1f0000ff0000ffull;
  v = (v | v >> 16) & 0x1f00000000ffffull;
  return (v | v >> 32) & 0x1fffff;
}

}  // namespace

std::uint64_t morton_key(const Lattice& p) {
  return spread(static_cast<std::uint64_t>(p[0])) | spread(static_cast<std::uint64_t>(p[1])) << 1 |
         spread(static_cast<std::uint64_t>(p[2])) << 2;
}

Lattice morton_position(std::uint64_t key) {
  return {static_cast<int>(gather(key)), static_cast<int>(gather(key >> 1)),
          static_cast<int>(gather(key >> 2))};
}

Octree::Octree(const Vec3& origin, double root_size, int levels, const Lattice& roots)
    : origin_(origin), unit_(root_size / (1 << levels)) {
  for (int i = 0; i < 3; ++i) extent_[at(i)] = roots[at(i)] << levels;
  for (int k = 0; k < roots[2]; ++k)
    for (int j = 0; j < roots[1]; ++j)
      for (int i = 0; i < roots[0]; ++i)
        leaves_.push_back({morton_key({i << levels, j << levels, k << levels}),
                           static_cast<std::uint8_t>(levels)});
  std::sort(leaves_.begin(), leaves_.end(),
            [](const Leaf& a, const Leaf& b) { return a.key < b.key; });
}

Vec3 Octree::centre(const Leaf& leaf) const {
  const Lattice c = leaf.corner();
  const double half = 0.5 * leaf.edge();
  return origin_ + Vec3{(c[0] + half) * unit_, (c[1] + half) * unit_, (c[2] + half) * unit_};
}

bool Octree::holds(const Lattice& p) const {
  for (std::size_t i = 0; i < 3; ++i)
    if (p[i] < 0 || p[i] >= extent_[i]) return false;
  return true;
}

bool Octree::split(const std::vector<char>& flagged) {
  std::vector<char> pending(leaves_.size(), 0);
  return split(flagged, pending);
}

bool Octree::split(const std::vector<char>& flagged, std::vector<char>& pending) {
  std::vector<Leaf> out;
  std::vector<char> out_pending;
  out.reserve(leaves_.size() * 2);
  bool any = false;
  for (std::size_t i = 0; i < leaves_.size(); ++i) {
    const Leaf& leaf = leaves_[i];
    if (!flagged[i] || leaf.level == 0) {
      out.push_back(leaf);
      out_pending.push_back(pending[i]);
      continue;
    }
    any = true;
    const auto level = static_cast<std::uint8_t>(leaf.level - 1);
    for (std::uint64_t child = 0; child < 8; ++child) {
      out.push_back({leaf.key + (child << (3 * level)), level});
      out_pending.push_back(1);
    }
  }
  leaves_ = std::move(out);
  pending = std::move(out_pending);
  return any;
}

void Octree::refine(const std::function<bool(const Leaf&)>& wanted, double most,
                    const Progress& progress) {
  std::vector<char> pending(leaves_.size(), 1);
  for (bool any = true; any;) {
    progress.check();
    std::vector<char> flagged(leaves_.size(), 0);
    parallel_for(leaves_.size(), [&](std::size_t i) {
      flagged[i] = pending[i] && leaves_[i].level > 0 && wanted(leaves_[i]);
    });
    const double next = static_cast<double>(leaves_.size()) +
                        7.0 * static_cast<double>(std::count(flagged.begin(), flagged.end(), 1));
    if (next > most)
      throw InputError(fmt::format("more than {:.0f} million cells would be needed, for which this "
                                   "machine has not enough memory",
                                   1e-6 * next),
                       "mesh", "use larger sizes");
    std::fill(pending.begin(), pending.end(), char{0});
    any = split(flagged, pending);
  }
}

void Octree::balance() {
  std::vector<char> pending(leaves_.size(), 1);
  for (bool any = true; any;) {
    std::vector<char> flagged(leaves_.size(), 0);
    parallel_for(leaves_.size(), [&](std::size_t i) {
      if (!pending[i]) return;
      pending[i] = 0;
      const Leaf& leaf = leaves_[i];
      const Lattice c = leaf.corner();
      // A leaf much larger cannot lie within the parent: only the seven neighbours on the parent's
      // outside are asked.
      const int octant = static_cast<int>(leaf.key >> (3 * leaf.level) & 7);
      for (int n = 1; n < 8; ++n) {
        Lattice p;
        for (int axis = 0; axis < 3; ++axis)
          p[at(axis)] =
              c[at(axis)] + (n >> axis & 1 ? (octant >> axis & 1 ? leaf.edge() : -leaf.edge()) : 0);
        if (!holds(p)) continue;
        const auto other = static_cast<std::size_t>(find(p, static_cast<int>(i)));
        // A leaf that found a neighbour too large looks again once that is split.
        if (leaves_[other].level > leaf.level + 1)
          std::atomic_ref(flagged[other]).store(1, std::memory_order_relaxed), pending[i] = 1;
      }
    });
    any = split(flagged, pending);
  }
}

}  // namespace dunefield
