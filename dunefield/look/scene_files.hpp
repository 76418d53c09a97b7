// A scene for other programs: its sheets and lines as VTK XML (VTP) with their values, or all of it
// as one glTF binary with the colours that the picture has.
#pragma once

#include <filesystem>
#include <vector>

#include <dunefield/look/scene.hpp>

namespace dunefield {

/// A file a sheet and a bundle of lines, named after them, into a folder made if need be.
/// @return the files. @throw OutputError
std::vector<std::filesystem::path> write_scene_vtp(const std::filesystem::path& folder,
                                                   const Scene& scene);
/// glTF 2.0, binary (GLB); y upward, as the format has it. @throw OutputError
void write_scene_gltf(const std::filesystem::path& file, const Scene& scene);

}  // namespace dunefield
