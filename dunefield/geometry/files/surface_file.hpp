// Surface files of any kind we read: STL, OBJ, PLY, STEP, glTF, 3MF. What a file is, its content
// decides; the name only when that is open.
#pragma once

#include <filesystem>

#include <dunefield/geometry/files/step.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// True of files that say their length unit themselves: they are read in metres.
bool says_its_unit(const std::filesystem::path& file);

/// Reads a surface in the file's own length unit, or metres where the file says its unit; equal
/// points are one.
/// @param curves how closely facets follow curved faces, where a file has such
/// @throw InputError for a missing, empty, truncated, contradictory or unknown file, with its line
/// or byte count
Surface read_surface(const std::filesystem::path& file, const CurveTolerance& curves = {});

}  // namespace dunefield
