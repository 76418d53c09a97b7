// What a 3MF file says of its model besides triangles: the unit, and what its objects are called.
#pragma once

#include <filesystem>
#include <map>
#include <string>

namespace dunefield {

struct ThreemfModel {
  double unit = 1e-3;                        ///< m; millimetres where the file says nothing
  std::map<std::string, std::string> names;  ///< of objects by their number; those that have one
};

/// From the model in the archive (3MF core specification 1.3).
/// @throw InputError when there is none, or its unit is unknown
ThreemfModel read_3mf_model(const std::filesystem::path& file);

}  // namespace dunefield
