// Standard pictures of a result: pressure on the vehicle, and a plane cut coloured by cell values.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/geometry/surface.hpp>
#include <dunefield/look/canvas.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct View {
  Vec3 from{-1.0, -0.85, 0.5};  ///< direction from the vehicle to the eye; parallel projection
  int width = 1280, height = 800;
};

/// The vehicle seen from `view.from`, coloured by a value per boundary face (smoothed over the
/// points), lit from the eye's side.
/// @param mirror show the whole vehicle of a half model
void draw_surface(const std::filesystem::path& file, const VolumeMesh& mesh,
                  const std::vector<double>& boundary_value, const ColourScale& scale,
                  const View& view, bool mirror, const std::string& title);

/// The cut y = `y` through the mesh around `frame`, each cell in the colour of its value.
void draw_slice_y(const std::filesystem::path& file, const VolumeMesh& mesh,
                  const std::vector<double>& cell_value, double y, const Box& frame,
                  const ColourScale& scale, const std::string& title);

}  // namespace dunefield
