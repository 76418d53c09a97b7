#include <demo/garage.hpp>

#include <fstream>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/stl.hpp>

namespace dunefield::garage {
namespace {

constexpr const char* campaign = R"(# Marram, an electric parcel van: as it is and with side skirts, at two speeds.
name = "Marram parcel van"

[vehicle]
files = ["marram.stl"]
unit = "m"            # of the numbers in the files
nose = "-x"           # which way it points in the files

[wheels]
find = true           # bodies of revolution that stand on the road

[tunnel]
half = true           # mirrored at the centre plane; forces are those of the whole vehicle
road = "rolling"      # or "fixed"

[mesh]
recipe = "scout"      # or "standard", "fine"

[flow]
turbulence = "sst"    # or "laminar"
iterations = 400

[runs]
speeds = ["60 km/h", "90 km/h"]

[[variant]]
name = "as it is"

[[variant]]
name = "side skirts"
add = ["side-skirts.stl"]
)";

}  // namespace

std::filesystem::path write_marram(const std::filesystem::path& folder) {
  std::error_code status;
  std::filesystem::create_directories(folder, status);
  if (status) throw OutputError("the folder cannot be made (" + status.message() + ")", folder.string(), "choose another one");
  write_stl_ascii(folder / "marram.stl", marram());
  write_stl_ascii(folder / "side-skirts.stl", marram_side_skirts());
  const auto file = folder / "marram.toml";
  std::ofstream out(file);
  out << campaign;
  out.close();
  if (!out) throw OutputError("cannot be written", file.string(), "choose another folder");
  return file;
}

}  // namespace dunefield::garage
