// VTK XML files: the volume mesh as polyhedra (VTU) and the vehicle's wall faces (VTP), compressed.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// A named field: one number or one vector for each cell (or face), the other vector left empty.
struct NamedField {
  std::string name;  ///< with its unit
  std::vector<double> scalar;
  std::vector<Vec3> vector;
};

/// All cells with their polyhedral faces and cell fields. @throw OutputError
void write_vtu(const std::filesystem::path& file, const VolumeMesh& mesh, const std::vector<NamedField>& cell_fields);

/// The faces of the vehicle's parts; fields hold one value per boundary face of the mesh. @throw OutputError
void write_vtp(const std::filesystem::path& file, const VolumeMesh& mesh, const std::vector<NamedField>& boundary_fields);

}  // namespace dunefield
