#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/step.hpp>

namespace dunefield {

bool reads_step() { return false; }

Surface read_step(const std::filesystem::path& file, const CurveTolerance&) {
  throw InputError("is a STEP file, which this build does not read", file.string(),
                   "install libocct-data-exchange-dev and build again, or export it as STL");
}

}  // namespace dunefield
