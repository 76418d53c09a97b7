// Scene files of drawing and printing programs, glTF 2.0 (.gltf, .glb) and 3MF, read by Assimp
// where that was there when the library was built.
#pragma once

#include <filesystem>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// False: `read_scene` only says what to do.
bool reads_scenes();

/// The triangles of all nodes, placed, each node a part of its name ("name 2" for a further one of
/// the same), in metres: glTF is, with y up, and 3MF files say their unit.
/// @throw InputError for a file that cannot be read or has no triangles, or where scenes are not
/// built in
Surface read_scene(const std::filesystem::path& file, bool is_3mf);

}  // namespace dunefield
