#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/scene.hpp>

namespace dunefield {

bool reads_scenes() { return false; }

Surface read_scene(const std::filesystem::path& file, bool) {
  throw InputError("is a scene file, which this build does not read", file.string(),
                   "install libassimp-dev and build again, or export it as STL");
}

}  // namespace dunefield
