// STL files, binary and ASCII.
#pragma once

#include <filesystem>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Reads an STL file of either kind, in the file's own length unit, points welded.
/// Each solid of an ASCII file becomes a part (an unnamed one takes the file's name); a binary file
/// is one part.
/// @throw InputError for a missing, empty, truncated or contradictory file, non-finite coordinates,
/// or no triangles
Surface read_stl(const std::filesystem::path& file);

/// Writes one ASCII solid per part. @throw OutputError
void write_stl_ascii(const std::filesystem::path& file, const Surface& surface);
/// Writes all triangles as one binary file; part names are lost. @throw OutputError
void write_stl_binary(const std::filesystem::path& file, const Surface& surface);

}  // namespace dunefield
