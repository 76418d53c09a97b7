// OBJ files: points, polygons, objects and groups.
#pragma once

#include <filesystem>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Reads points and polygons in the file's own length unit. Each group is a part; under an object
/// its name is "object / group"; an object without groups is a part. Texture, normals, materials,
/// lines and curves are skipped.
/// @throw InputError with the line
Surface read_obj(const std::filesystem::path& file);

/// Writes points once and one group per part. @throw OutputError
void write_obj(const std::filesystem::path& file, const Surface& surface);

}  // namespace dunefield
