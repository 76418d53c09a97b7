// Pictures of a mesh: its faces on the vehicle with the worst places marked, its cells in a cut
// with a close-up at the wall, and its quality as histograms.
#pragma once

#include <filesystem>
#include <string>

#include <dunefield/mesh/quality/quality.hpp>

namespace dunefield {

/// @param mirror show the whole vehicle of a half model. @throw OutputError
void draw_mesh_surface(const std::filesystem::path& file, const VolumeMesh& mesh,
                       const MeshQuality& quality, bool mirror, const std::string& title);

/// Outlines of the cells that the plane y = `y` cuts: around the vehicle, and much enlarged where
/// it is foremost.
/// @param leaf edge of the leaves at the surface, m: the close-up shows some ten of them
void draw_mesh_cut(const std::filesystem::path& file, const VolumeMesh& mesh, double y, double leaf,
                   const std::string& title);

void draw_mesh_quality(const std::filesystem::path& file, const MeshQuality& quality,
                       const std::string& title);

}  // namespace dunefield
