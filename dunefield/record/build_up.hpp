// Where along the vehicle its forces arise: forces added up from the nose to a station.
#pragma once

#include <vector>

#include <dunefield/balance/balance.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct BuildUp {
  std::vector<double> station;  ///< x, m, from the nose to the tail
  /// N, of everything ahead of the station; the last is the whole vehicle's
  std::vector<Vec3> pressure, friction;
};

/// @param loads of the boundary faces of the mesh in order; @param undisturbed Pa, taken off;
/// @param half the mesh is one half
BuildUp build_up(const VolumeMesh& mesh, const std::vector<WallLoad>& loads, double undisturbed,
                 bool half, int stations = 200);

}  // namespace dunefield
