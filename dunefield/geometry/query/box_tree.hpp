// A packed tree of boxes, eight children a node: which items' boxes touch a given box?
#pragma once

#include <cstdint>
#include <vector>

#include <dunefield/base/float8_math.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/base/vec.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

/// A box in single precision, rounded outward.
struct SmallBox {
  float lo[3], hi[3];
  SmallBox();
  explicit SmallBox(const Box& box);
  void include(const SmallBox& b);
  bool touches(const SmallBox& b) const {
    return lo[0] <= b.hi[0] && hi[0] >= b.lo[0] && lo[1] <= b.hi[1] && hi[1] >= b.lo[1] &&
           lo[2] <= b.hi[2] && hi[2] >= b.lo[2];
  }
};

/// Thread-safe after construction.
class BoxTree {
 public:
  BoxTree() = default;
  explicit BoxTree(const std::vector<SmallBox>& boxes);

  /// Calls `visit(item)` for all items whose box touches `box`.
  template <class Visit>
  void overlapping(const SmallBox& box, const Visit& visit) const;
  /// Calls `visit(i, j)` for all pairs i < j whose boxes touch, from all cores at once. @param
  /// boxes those the tree was built from
  template <class Visit>
  void touching_pairs(const std::vector<SmallBox>& boxes, const Visit& visit) const;

 private:
  static constexpr int width = 8;
  struct Node {
    Float8 lo[3], hi[3];
  };
  static unsigned touching(const Node& n, const SmallBox& box);
  std::vector<std::int32_t> order_;
  /// First node of each level, leaves (whose children are items) first
  std::vector<std::int64_t> level_start_;
  std::vector<std::int64_t> level_size_;  ///< number of children in each level
  std::vector<Node> nodes_;
};

inline unsigned BoxTree::touching(const Node& n, const SmallBox& b) {
  return lanes_of((n.lo[0] <= b.hi[0]) & (n.hi[0] >= b.lo[0]) & (n.lo[1] <= b.hi[1]) &
                  (n.hi[1] >= b.lo[1]) & (n.lo[2] <= b.hi[2]) & (n.hi[2] >= b.lo[2]));
}

template <class Visit>
void BoxTree::overlapping(const SmallBox& box, const Visit& visit) const {
  if (order_.empty()) return;
  std::pair<int, std::int64_t> stack[128];
  int top = 0;
  stack[top++] = {static_cast<int>(level_start_.size()) - 1, 0};
  while (top > 0) {
    const auto [level, node] = stack[--top];
    for (unsigned lanes = touching(nodes_[at(level_start_[at(level)] + node)], box); lanes;
         lanes &= lanes - 1) {
      const std::int64_t child = node * width + std::countr_zero(lanes);
      if (level > 0)
        stack[top++] = {level - 1, child};
      else
        visit(order_[at(child)]);
    }
  }
}

template <class Visit>
void BoxTree::touching_pairs(const std::vector<SmallBox>& boxes, const Visit& visit) const {
  // The items of one leaf ask together.
  parallel_for(
      (order_.size() + width - 1) / width,
      [&](std::size_t leaf) {
        const std::size_t first = leaf * width, last = std::min(first + width, order_.size());
        SmallBox around;
        for (std::size_t n = first; n < last; ++n) around.include(boxes[at(order_[n])]);
        overlapping(around, [&](std::int32_t j) {
          for (unsigned lanes = touching(nodes_[leaf], boxes[at(j)]); lanes; lanes &= lanes - 1)
            if (const std::int32_t i =
                    order_[first + static_cast<std::size_t>(std::countr_zero(lanes))];
                i < j)
              visit(i, j);
        });
      },
      512);
}

}  // namespace dunefield
