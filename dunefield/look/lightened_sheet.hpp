// A sheet with fewer triangles of nearly the same shape, for those who only look at it.
#pragma once

#include <cstddef>

#include <dunefield/look/scene.hpp>

namespace dunefield {

/// Edges are collapsed in order of the error that this makes (Garland and Heckbert 1997), as long
/// as there are more than `most_triangles`; values stay those of the points that are left.
Sheet lightened(const Sheet& sheet, std::size_t most_triangles);
/// The same, between the sheet's own points.
std::vector<std::array<int, 3>> lightened_triangles(const Sheet& sheet, std::size_t most_triangles);

}  // namespace dunefield
