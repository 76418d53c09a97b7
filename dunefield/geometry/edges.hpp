// The edges of a surface and the triangles on them.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Built once, in time linear in the triangles; eight bytes for each triangle's edge.
class EdgeTable {
 public:
  explicit EdgeTable(const Surface& surface);

  /// One triangle's use of an edge.
  struct Use {
    std::int32_t other;  ///< the edge's higher point
    /// Twice the triangle's number, plus one if it runs from the higher to the lower point
    std::int32_t triangle2;
    int triangle() const { return triangle2 >> 1; }
    bool backward() const { return triangle2 & 1; }
  };
  /// Calls `visit(low, high, uses)` for each edge, in order of its lower and then its higher point.
  template <class Visit>
  void for_each(const Visit& visit) const {
    for (std::size_t p = 0; p + 1 < start_.size(); ++p)
      for (std::size_t i = start_[p]; i < start_[p + 1];) {
        std::size_t j = i + 1;
        while (j < start_[p + 1] && uses_[j].other == uses_[i].other) ++j;
        visit(static_cast<int>(p), uses_[i].other, std::span<const Use>(uses_.data() + i, j - i));
        i = j;
      }
  }

 private:
  std::vector<std::size_t> start_;  ///< by lower point
  std::vector<Use> uses_;
};

}  // namespace dunefield
