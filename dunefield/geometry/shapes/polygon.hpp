// Polygons in space cut into triangles.
#pragma once

#include <array>
#include <functional>
#include <vector>

#include <dunefield/base/vec.hpp>

namespace dunefield {

/// Area vector of a closed ring of points (Newell's formula): for a flat ring its normal times its
/// area.
Vec3 area_vector(const std::vector<Vec3>& points, const std::vector<int>& ring);

/// Cuts a ring of numbered points into triangles with the same sense by clipping ears (Meisters
/// 1975) in the plane of its area vector; a ring that crosses itself is cut as well as it goes.
/// Takes a time that grows with the square of the ring's length.
/// @param taken says of two points that an edge of the surface joins them already: a cut there is
/// avoided if there is another
std::vector<std::array<int, 3>> triangulate(const std::vector<Vec3>& points,
                                            const std::vector<int>& ring,
                                            const std::function<bool(int, int)>& taken = {});

}  // namespace dunefield
