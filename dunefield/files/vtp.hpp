// The vehicle's wall faces as a VTK XML file (VTP), compressed.
#pragma once

#include <filesystem>
#include <vector>

#include <dunefield/files/vtk_xml.hpp>

namespace dunefield {

/// The faces of the vehicle's parts; fields hold one value per boundary face of the mesh. @throw
/// OutputError
void write_vtp(const std::filesystem::path& file, const VolumeMesh& mesh,
               const std::vector<NamedField>& boundary_fields);

}  // namespace dunefield
