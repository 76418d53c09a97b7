// From a placed vehicle in its tunnel to a mesh: octree, dual, fit, checks.
#pragma once

#include <string>
#include <vector>

#include <dunefield/base/findings.hpp>
#include <dunefield/base/progress.hpp>
#include <dunefield/geometry/surface.hpp>
#include <dunefield/mesh/dual/fitting.hpp>
#include <dunefield/mesh/layers/layers.hpp>
#include <dunefield/mesh/mesh_options.hpp>
#include <dunefield/mesh/octree/gaps.hpp>
#include <dunefield/mesh/quality/quality.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct MeshResult {
  VolumeMesh mesh;
  MeshQuality quality;
  FitReport fit;
  LayerReport layers;
  int united = 0;               ///< wall faces that were united with another one of their cell
  int merged = 0;               ///< cells that were bad and were merged with a neighbour
  std::vector<NarrowGap> gaps;  ///< with fewer than three cells across
  Findings findings;
  Box tunnel;  ///< the box really meshed: rounded up to whole cells
  double seconds = 0;
  bool follows = false;  ///< a baseline's mesh that followed a displacement of its surface (morph)
};

/// @param vehicle placed: road at z = 0, metres
/// @throw InputError for options that contradict, MeshError when no sound mesh could be made,
/// Cancelled
MeshResult build_mesh(const Surface& vehicle, const Box& tunnel, const MeshOptions& options,
                      const Progress& progress = {});

}  // namespace dunefield
