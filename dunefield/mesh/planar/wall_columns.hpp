// Columns of layers on a section's wall, up to the front that the other cells begin at.
#pragma once

#include <vector>

#include <dunefield/mesh/planar/wall_line.hpp>

namespace dunefield {

/// Where a side between two columns stands on the wall, and where it points. At convex corners
/// several rays fan out from one point.
struct Ray {
  std::size_t point = 0;  ///< of the wall
  Vec3 direction;         ///< from the wall; longer than 1 where it is oblique to the layers
  double thickness = 0;   ///< of all layers, m
  double first = 0;       ///< height of the first layer, m; larger at the points of fans
};

/// The layers around one outline. Column i lies between ray i and the next.
struct WallColumns {
  WallLine wall;
  std::vector<Ray> rays;
  int layers = 0;
  double first_height = 0;  ///< that is wanted

  std::size_t next(std::size_t ray) const { return ray + 1 == rays.size() ? 0 : ray + 1; }
  /// True for the columns of a fan, which have no face at the wall.
  bool in_fan(std::size_t ray) const { return rays[ray].point == rays[next(ray)].point; }
  /// Heights of the layers' borders over the wall, from 0 to the thickness.
  std::vector<double> heights(std::size_t ray) const;
  Vec3 front(std::size_t ray) const {
    return wall.points[rays[ray].point] + rays[ray].direction * rays[ray].thickness;
  }
};

/// As thick as there is room for: fronts do not cross. Their last layers are about as high as the
/// wall's faces are long.
/// @throw MeshError where no front can be made
std::vector<WallColumns> wall_columns(std::vector<WallLine> walls, const LayerOptions& options,
                                      bool road);

}  // namespace dunefield
