// Meshes as CGNS files (the open standard AIAA R-101A, HDF5 below): written, and read from
// elsewhere.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// One number for each cell.
struct CellField {
  std::string name;
  const std::vector<double>* values;
};

/// One unstructured zone: faces as polygons, cells as polyhedra, each boundary as a boundary
/// condition with its full name and kind in descriptors. @throw OutputError
void write_cgns(const std::filesystem::path& file, const VolumeMesh& mesh,
                const std::vector<CellField>& fields = {});

/// A mesh of one zone with polygons and polyhedra, metres, road at z = 0, nose towards -x.
/// Boundaries from elsewhere are told apart by their boundary condition: inflow, outflow, symmetry
/// plane (the centre plane if at y = 0), slip walls; walls called road or ground are the road, all
/// others parts of the vehicle. Derived arrays are filled, quality is not looked at.
/// @throw InputError for what is no such file, faces that belong to no boundary, cells that are not
/// closed
VolumeMesh read_cgns(const std::filesystem::path& file);

}  // namespace dunefield
