#include <dunefield/geometry/query/box_tree.hpp>

#include <cmath>
#include <limits>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/spatial_order.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

float rounded_down(double v) {
  const auto f = static_cast<float>(v);
  return static_cast<double>(f) > v ? std::nextafter(f, -std::numeric_limits<float>::infinity())
                                    : f;
}

}  // namespace

SmallBox::SmallBox() : lo{1e30f, 1e30f, 1e30f}, hi{-1e30f, -1e30f, -1e30f} {}

SmallBox::SmallBox(const Box& b) {
  for (int i = 0; i < 3; ++i) lo[i] = rounded_down(b.lo[i]), hi[i] = -rounded_down(-b.hi[i]);
}

void SmallBox::include(const SmallBox& b) {
  for (int i = 0; i < 3; ++i) lo[i] = std::min(lo[i], b.lo[i]), hi[i] = std::max(hi[i], b.hi[i]);
}

BoxTree::BoxTree(const std::vector<SmallBox>& boxes) {
  if (boxes.empty()) return;
  {
    std::vector<Place> middle(boxes.size());
    for (std::size_t i = 0; i < boxes.size(); ++i)
      for (std::size_t k = 0; k < 3; ++k) middle[i][k] = 0.5f * (boxes[i].lo[k] + boxes[i].hi[k]);
    order_ = spatial_order(middle);
  }
  auto count = static_cast<std::int64_t>(boxes.size());
  std::int64_t total = 0;
  do {
    level_start_.push_back(total);
    level_size_.push_back(count);
    count = (count + width - 1) / width;
    total += count;
  } while (count > 1);
  nodes_.resize(static_cast<std::size_t>(total));
  for (std::size_t level = 0; level < level_start_.size(); ++level) {
    const std::int64_t n = level_size_[level];
    const auto nodes = static_cast<std::size_t>((n + width - 1) / width);
    parallel_for(nodes, [&](std::size_t i) {
      Node& node = nodes_[at(level_start_[level]) + i];
      for (std::size_t k = 0; k < width; ++k) {
        const std::size_t child = i * width + k;
        const bool exists = static_cast<std::int64_t>(child) < n;
        for (int axis = 0; axis < 3; ++axis) {
          float lo = std::numeric_limits<float>::max(), hi = -lo;
          if (exists && level == 0) {
            const SmallBox& b = boxes[at(order_[child])];
            lo = b.lo[axis], hi = b.hi[axis];
          } else if (exists) {
            const Node& c = nodes_[at(level_start_[level - 1]) + child];
            for (int m = 0; m < width; ++m)
              lo = std::min(lo, c.lo[axis][m]), hi = std::max(hi, c.hi[axis][m]);
          }
          node.lo[axis][k] = lo, node.hi[axis][k] = hi;
        }
      }
    });
  }
}

}  // namespace dunefield
