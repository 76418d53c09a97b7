// Meshes as VTK XML files (VTU, polyhedra): written, and read again or from elsewhere.
#pragma once

#include <filesystem>
#include <vector>

#include <dunefield/files/vtk_xml.hpp>

namespace dunefield {

/// All cells with their faces and cell fields; points as they are, so that the mesh comes back the
/// same. Boundaries go along as field data: an array named "kind: name" for each, with the cell of
/// each of its faces and the face's place in the list of that cell's faces. @throw OutputError
void write_vtu(const std::filesystem::path& file, const VolumeMesh& mesh,
               const std::vector<NamedField>& cell_fields);

/// A mesh of polyhedra, tetrahedra, hexahedra, wedges and pyramids, in metres, road at z = 0, nose
/// towards -x. In a file from elsewhere, without our boundaries, the outside's faces that lie in
/// the planes of the mesh's box are inflow (least x), outflow, road (least z), roof and sides (the
/// centre plane, if at y = 0 with no air beyond), and all others one part, "vehicle". Derived
/// arrays are filled, quality is not looked at.
/// @throw InputError for what is no such file, other kinds of cells, faces that three cells share,
/// cells that are not closed
VolumeMesh read_vtu(const std::filesystem::path& file);

}  // namespace dunefield
