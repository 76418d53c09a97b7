// STEP files (ISO 10303-21) of CAD programs, cut into facets by OpenCASCADE where that was there
// when the library was built.
#pragma once

#include <filesystem>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// How closely facets follow curved faces.
struct CurveTolerance {
  double chord = 2e-4;  ///< farthest from the face, as a share of all the shape's longest side
  double angle = 0.15;  ///< between neighbouring facets, rad
};

/// False: `read_step` only says what to do.
bool reads_step();

/// Solids, shells and single faces of all parts of an assembly, each with its part's name and place
/// ("name 2" for a further one of the same name), in metres whatever the file's unit is. Facets of
/// one part share the points on its edges.
/// @throw InputError for a file that cannot be read or has nothing with an area, or where STEP is
/// not built in
Surface read_step(const std::filesystem::path& file, const CurveTolerance& tolerance);

}  // namespace dunefield
