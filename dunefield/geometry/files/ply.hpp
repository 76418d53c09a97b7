// PLY files, ASCII and binary of either byte order (Turk 1994).
#pragma once

#include <filesystem>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Reads the vertex positions and the faces as one part; other elements and properties are skipped.
/// @throw InputError with the line or the byte count
Surface read_ply(const std::filesystem::path& file);

}  // namespace dunefield
