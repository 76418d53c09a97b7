// From a placed vehicle in its tunnel to a mesh: octree, dual, fit, checks.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <vector>

#include <dunefield/base/findings.hpp>
#include <dunefield/base/progress.hpp>
#include <dunefield/geometry/surface.hpp>
#include <dunefield/mesh/fitting.hpp>
#include <dunefield/mesh/layers.hpp>
#include <dunefield/mesh/quality.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// A box in which cells are no larger than `size`.
struct RefinedBox {
  std::string name;
  Box box;
  double size = 0;  ///< m
};

struct MeshOptions {
  double surface_size = 0.04;            ///< leaf edge at the vehicle's surface, m; the others are doublings of it
  std::map<std::string, double> part_size;  ///< smaller leaf edges for named parts, m
  double largest_size = 1.4;             ///< leaf edge far away, m
  double spread = 4;                     ///< cells of each size between two doublings, counted from the surface
  double box_margin_cells = 2;           ///< cells beyond a refined box before the next doubling
  std::vector<RefinedBox> boxes;         ///< wake, under-floor and the user's own
  std::vector<std::string> standing_parts;  ///< parts on the road (wheels): get a plinth
  std::vector<std::string> sheet_parts;     ///< parts with air on both sides of their facets; others are recognised by visibility
  double plinth_cells = 0.7;             ///< plinth height in surface leaves; must not fall on a lattice plane
  LayerOptions layers;                   ///< wall layers on the vehicle
  bool half = false;                     ///< centre plane at y = 0
  Vec3 lattice_shift;                    ///< moves the lattice, in surface leaves, along x and z; for measuring mesh scatter
};

/// The named fineness of a mesh, in relation to the vehicle: `scout`, `standard` or `fine`.
/// Sets sizes and default boxes (wake, under-floor) for a vehicle of these bounds. @throw InputError for another name
MeshOptions mesh_recipe(const std::string& name, const Box& vehicle, const std::string& where);

struct MeshResult {
  VolumeMesh mesh;
  MeshQuality quality;
  FitReport fit;
  LayerReport layers;
  int united = 0;        ///< wall faces that were united with another one of their cell
  Findings findings;
  Box tunnel;            ///< the box really meshed: rounded up to whole cells
  double seconds = 0;
};

/// Cells the options will about give, before any meshing.
double predict_cells(const Surface& vehicle, const Box& tunnel, const MeshOptions& options);

/// @param vehicle placed: road at z = 0, metres
/// @throw InputError for options that contradict, MeshError when no sound mesh could be made, Cancelled
MeshResult build_mesh(const Surface& vehicle, const Box& tunnel, const MeshOptions& options, const Progress& progress = {});

}  // namespace dunefield
