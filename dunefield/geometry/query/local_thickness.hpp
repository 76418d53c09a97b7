// How thick the body is and how wide its gaps are, by rays from its surface.
#pragma once

#include <array>
#include <vector>

#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/query/shells.hpp>

namespace dunefield {

/// Shares of the surface's area by width.
struct WidthHistogram {
  static constexpr std::array<double, 8> limits_mm = {1, 2, 5, 10, 20, 50, 100, 200};
  /// Below each limit (from the one before on); the last: above all, or nothing there
  std::array<double, 9> share{};
  double least = 0;  ///< narrowest measured, m; 0 if none
  Vec3 least_place;
};

struct LocalWidths {
  WidthHistogram thickness;  ///< along the inner normal to where the body ends
  WidthHistogram gap;        ///< along the outer normal to the next surface that faces back
};

/// @param samples points from which is measured, spread over the area
LocalWidths measure_widths(const Surface& surface, const RayScene& rays, const Shells& shells,
                           std::size_t samples = 20000);

}  // namespace dunefield
