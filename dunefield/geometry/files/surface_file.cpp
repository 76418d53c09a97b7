#include <dunefield/geometry/files/surface_file.hpp>

#include <algorithm>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/input_file.hpp>
#include <dunefield/geometry/files/obj.hpp>
#include <dunefield/geometry/files/ply.hpp>
#include <dunefield/geometry/files/scene.hpp>
#include <dunefield/geometry/files/stl.hpp>

namespace dunefield {

namespace {

constexpr char threemf[] = ".3mf";

bool is_step(std::string_view start) { return start.starts_with("ISO-"); }

/// In small letters.
std::string ending_of(const std::filesystem::path& file) {
  std::string ending = file.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return ending;
}

bool is_gltf(std::string_view start, const std::string& ending) {
  return start == "glTF" || ending == ".gltf";
}

std::string what_is_read() {
  return std::string("STL, OBJ, PLY") + (reads_step() ? ", STEP" : "") +
         (reads_scenes() ? ", glTF or 3MF" : "");
}

}  // namespace

bool says_its_unit(const std::filesystem::path& file) {
  const InputFile input(file);
  const std::string_view start = input.bytes().substr(0, 4);
  const std::string ending = ending_of(file);
  return is_step(start) || is_gltf(start, ending) || ending == threemf;
}

Surface read_surface(const std::filesystem::path& file, const CurveTolerance& curves) {
  const std::string ending = ending_of(file);
  {
    const InputFile input(file);
    const std::string_view start = input.bytes().substr(0, 4);
    if (start == "ply\n" || start == "ply\r") return read_ply(file);
    if (is_step(start)) return read_step(file, curves);
    if (is_gltf(start, ending)) return read_scene(file, false);
    if (ending == threemf) return read_scene(file, true);
  }
  if (ending == ".ply") return read_ply(file);
  if (ending == ".obj") return read_obj(file);
  if (ending == ".stl") return read_stl(file);
  throw InputError("is not a kind of surface file that is read", file.string(),
                   "export it as one of " + what_is_read());
}

}  // namespace dunefield
