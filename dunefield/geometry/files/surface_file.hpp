// Surface files of any kind we read: STL, OBJ, PLY. What a file is, its content decides; the name
// only when that is open.
#pragma once

#include <filesystem>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Reads a surface in the file's own length unit; equal points are one.
/// @throw InputError for a missing, empty, truncated, contradictory or unknown file, with its line
/// or byte count
Surface read_surface(const std::filesystem::path& file);

}  // namespace dunefield
