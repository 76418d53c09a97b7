#include <dunefield/mesh/planar/quadtree.hpp>

#include <algorithm>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

Quadtree::Quadtree(const Vec3& origin, double root, int levels, int roots_x, int roots_z)
    : origin_(origin),
      unit_(root / (1 << levels)),
      root_edge_(1 << levels),
      width_(roots_x * root_edge_),
      height_(roots_z * root_edge_) {
  for (int z = 0; z < roots_z; ++z)
    for (int x = 0; x < roots_x; ++x)
      leaves_.push_back({x * root_edge_, z * root_edge_, root_edge_});
  number();
}

void Quadtree::refine(const std::function<bool(const Vec3&, double)>& too_large) {
  std::vector<char> wanted;
  do {
    wanted.assign(leaves_.size(), 0);
    parallel_for(
        leaves_.size(),
        [&](std::size_t i) { wanted[i] = too_large(centre(leaves_[i]), size(leaves_[i])); }, 256);
  } while (split(wanted));
  do {  // balance: a leaf beside one of less than half its edge is halved
    wanted.assign(leaves_.size(), 0);
    for (const Leaf& l : leaves_)
      for (const auto& [x, z] :
           {std::pair{l.x - 1, l.z}, {l.x + l.edge, l.z}, {l.x, l.z - 1}, {l.x, l.z + l.edge}})
        if (const int other = leaf_with(x, z); other >= 0 && leaves_[at(other)].edge > 2 * l.edge)
          wanted[at(other)] = 1;
  } while (split(wanted));
}

Box Quadtree::box() const { return {place(0, 0), place(width_, height_)}; }

int Quadtree::leaf_with(int x, int z) const {
  if (x < 0 || z < 0 || x >= width_ || z >= height_) return -1;
  for (int edge = 1; edge <= root_edge_; edge *= 2) {
    const auto found = number_of_.find(key(x & ~(edge - 1), z & ~(edge - 1), edge));
    if (found != number_of_.end()) return found->second;
  }
  return -1;
}

int Quadtree::leaf_at(const Vec3& p) const {
  return leaf_with(static_cast<int>(std::floor((p.x - origin_.x) / unit_)),
                   static_cast<int>(std::floor((p.z - origin_.z) / unit_)));
}

std::uint64_t Quadtree::key(int x, int z, int edge) {
  // A corner of a leaf has the edge's zeros at its end: one more bit tells the edge.
  return (static_cast<std::uint64_t>(2 * static_cast<unsigned>(x) + static_cast<unsigned>(edge))
          << 32) |
         (2 * static_cast<unsigned>(z) + static_cast<unsigned>(edge));
}

bool Quadtree::split(const std::vector<char>& wanted) {
  std::vector<Leaf> next;
  next.reserve(leaves_.size() * 2);
  bool any = false;
  for (std::size_t i = 0; i < leaves_.size(); ++i) {
    const Leaf& l = leaves_[i];
    if (!wanted[i] || l.edge == 1) {
      next.push_back(l);
      continue;
    }
    any = true;
    const int half = l.edge / 2;
    for (const auto& [x, z] : {std::pair{0, 0}, {half, 0}, {0, half}, {half, half}})
      next.push_back({l.x + x, l.z + z, half});
  }
  if (!any) return false;
  leaves_ = std::move(next);
  number();
  return true;
}

void Quadtree::number() {
  number_of_.clear();
  number_of_.reserve(leaves_.size() * 2);
  for (std::size_t i = 0; i < leaves_.size(); ++i)
    number_of_[key(leaves_[i].x, leaves_[i].z, leaves_[i].edge)] = static_cast<int>(i);
}

}  // namespace dunefield
