// A packed tree of boxes, eight children a node: which items' boxes touch a given box?
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include <dunefield/base/vec.hpp>

namespace dunefield {

/// Thread-safe after construction.
class BoxTree {
 public:
  BoxTree() = default;
  explicit BoxTree(const std::vector<Box>& boxes);

  /// Calls `visit(item)` for all items whose box touches `box`.
  template <class Visit>
  void overlapping(const Box& box, const Visit& visit) const;
  /// Items in the tree's order: neighbours in it are neighbours in space.
  const std::vector<std::int32_t>& order() const { return order_; }

 private:
  static constexpr int width = 8;
  struct alignas(32) Node {
    float lo[3][width], hi[3][width];
  };
  int children(int level, std::int64_t node) const;
  std::vector<std::int32_t> order_;
  std::vector<std::int64_t> level_start_;  ///< first node of each level, leaves (whose children are items) first
  std::vector<std::int64_t> level_size_;   ///< number of children in each level
  std::vector<Node> nodes_;
};

template <class Visit>
void BoxTree::overlapping(const Box& box, const Visit& visit) const {
  if (order_.empty()) return;
  std::pair<int, std::int64_t> stack[128];
  int top = 0;
  stack[top++] = {static_cast<int>(level_start_.size()) - 1, 0};
  float lo[3], hi[3];
  for (int i = 0; i < 3; ++i) lo[i] = static_cast<float>(box.lo[i]), hi[i] = static_cast<float>(box.hi[i]);
  while (top > 0) {
    const auto [level, node] = stack[--top];
    const Node& n = nodes_[static_cast<std::size_t>(level_start_[static_cast<std::size_t>(level)] + node)];
    int touches[width];
    for (int k = 0; k < width; ++k)
      touches[k] = (n.lo[0][k] <= hi[0]) & (n.hi[0][k] >= lo[0]) & (n.lo[1][k] <= hi[1]) & (n.hi[1][k] >= lo[1]) & (n.lo[2][k] <= hi[2]) & (n.hi[2][k] >= lo[2]);
    const int count = children(level, node);
    for (int k = 0; k < count; ++k) {
      if (!touches[k]) continue;
      if (level > 0) stack[top++] = {level - 1, node * width + k};
      else visit(order_[static_cast<std::size_t>(node * width + k)]);
    }
  }
}

}  // namespace dunefield
