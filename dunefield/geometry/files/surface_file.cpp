#include <dunefield/geometry/files/surface_file.hpp>

#include <algorithm>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/input_file.hpp>
#include <dunefield/geometry/files/obj.hpp>
#include <dunefield/geometry/files/ply.hpp>
#include <dunefield/geometry/files/stl.hpp>

namespace dunefield {

namespace {

bool is_step(std::string_view start) { return start.starts_with("ISO-"); }

}  // namespace

bool says_its_unit(const std::filesystem::path& file) {
  const InputFile input(file);
  return is_step(input.bytes().substr(0, 4));
}

Surface read_surface(const std::filesystem::path& file, const CurveTolerance& curves) {
  std::string ending = file.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  {
    const InputFile input(file);
    const std::string_view start = input.bytes().substr(0, 4);
    if (start == "ply\n" || start == "ply\r") return read_ply(file);
    if (is_step(start)) return read_step(file, curves);
  }
  if (ending == ".ply") return read_ply(file);
  if (ending == ".obj") return read_obj(file);
  if (ending == ".stl") return read_stl(file);
  throw InputError(
      "is not a kind of surface file that is read", file.string(),
      reads_step() ? "export it as STL, OBJ, PLY or STEP" : "export it as STL, OBJ or PLY");
}

}  // namespace dunefield
