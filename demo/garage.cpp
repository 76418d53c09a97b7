#include <demo/garage.hpp>

#include <fstream>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/obj.hpp>
#include <dunefield/geometry/files/stl.hpp>

namespace dunefield::garage {
namespace {

namespace fs = std::filesystem;

/// What all the demos' campaign files have in common.
/// @param flow more lines of the flow's settings
std::string campaign_text(const std::string& head, const std::string& tunnel,
                          const std::string& speeds, const std::string& variants,
                          const std::string& flow = "") {
  return head + R"(
[wheels]
find = true           # bodies of revolution that stand on the road

[tunnel]
)" + tunnel +
         R"(road = "rolling"      # or "fixed"

[mesh]
recipe = "scout"      # or "sketch", "standard", "fine"

[flow]
turbulence = "sst"    # or "laminar"
iterations = 1000
)" + flow +
         R"(
[runs]
speeds = [)" +
         speeds + "]\n" + variants;
}

const std::string half =
    "half = true           # mirrored at the centre plane; forces are those of the whole vehicle\n";

std::string marram_text() {
  return campaign_text(
      R"(# Marram, an electric parcel van: what skirts with wheel covers and a tapered tail save a
# made-up carrier on its coastal parcel round.
name = "Marram parcel van"

[vehicle]
files = ["marram.stl"]
unit = "m"            # of the numbers in the files
nose = "-x"           # which way it points in the files
)",
      half, R"("60 km/h", "90 km/h", "120 km/h")", R"(
[[variant]]
name = "as it is"

[[variant]]
name = "skirts and covers"
add = ["side-skirts.stl", "wheel-covers.obj"]

[[variant]]
name = "tapered tail"
add = ["tapered-tail.obj"]

[compare]
baseline = "as it is"
want = ["less drag"]

[[figure]]            # any formula of CD, CL, drag, speed ...
name = "against the air"
formula = "drag / 36"
unit = "kWh/100 km"

[[round]]             # energy from the battery
name = "coastal parcel round"
mass = "2800 kg"
rolling_resistance = 0.009
efficiency = 0.82     # from the battery to the wheels

[[round.leg]]
speed = "60 km/h"
length = "46 km"

[[round.leg]]
speed = "90 km/h"
length = "71 km"

[[round.leg]]
speed = "120 km/h"
length = "18 km"
)",
      "accuracy = 0.01       # of CD, for a demo of minutes; usual at \"scout\" is 0.005\n"
      "difference_accuracy = 0.15 # or of what a variant gains or loses, where that is more\n");
}

std::string barchan_text() {
  return campaign_text(
      R"(# Barchan, a hill-climb single-seater: as it is, with less rear wing, and lowered in front.
name = "Barchan single-seater"

[vehicle]
files = ["barchan.obj"]
unit = "m"
nose = "-x"
)",
      half, R"("120 km/h")", R"(
[[variant]]
name = "as it is"

[[variant]]
name = "flat rear flap"

[[variant.change]]
part = "rear wing flap"
turn = "12 deg"       # about its middle, right-hand rule about y
axis = [0, 1, 0]

[[variant]]
name = "nose down"
ride = { front = "-10 mm", rear = "10 mm" }

[search]              # dunefield search barchan.toml
variant = "flat rear flap"
most = "-CL"          # downforce
runs = 20

[search.keys]
"variant.flat rear flap.change.1.turn" = ["-4 deg", "16 deg"]
"ride.front" = ["-12 mm", "12 mm"]

[[search.limit]]
figure = "CD"
most = 0.78
)");
}

std::string seif_text() {
  return campaign_text(
      R"(# Seif, a two-axle box truck: with and without a fairing on the cab's roof.
name = "Seif box truck"

[vehicle]
files = ["seif.obj"]
unit = "m"
nose = "-x"
)",
      half, R"("85 km/h")", R"(
[[variant]]
name = "as it is"

[[variant]]
name = "roof fairing"
add = ["roof-fairing.obj"]
)");
}

std::string rill_text() {
  return campaign_text(R"(# Rill, a time-trial cyclist: two postures.
name = "Rill time-trial cyclist"

[vehicle]
files = ["rill-upright.obj"]
unit = "m"
nose = "-x"
)",
                       "half = false          # cranks and legs are not symmetric\n",
                       R"("45 km/h")", R"(
[[variant]]
name = "upright"

[[variant]]
name = "tucked"
remove = ["rider", "helmet"]
add = ["rill-tucked-rider.obj"]
)");
}

std::string dirty_text() {
  return campaign_text(
      R"(# Marram as a scanner might deliver it. Nothing needs to be mended before it is meshed.
name = "Marram, dirty scan"

[vehicle]
files = ["marram-dirty.stl"]
unit = "mm"
nose = "+y"
)",
      half, R"("90 km/h")", "");
}

std::string nabkha_text() {
  return campaign_text(
      R"(# Nabkha, a saloon as an assembly export delivers it: open panels, open cabin, open rims.
name = "Nabkha saloon"

[vehicle]
files = ["nabkha.stl"]
unit = "m"
nose = "-x"
)",
      half, R"("110 km/h")", R"(
[[variant]]
name = "as it is"

[[variant]]
name = "no boot wing"
remove = ["boot wing"]
)");
}

void write_text(const fs::path& file, const std::string& text) {
  std::ofstream out(file);
  out << text;
  out.close();
  if (!out) throw OutputError("cannot be written", file.string(), "choose another folder");
}

Surface rider_of(const Surface& cyclist) {
  std::vector<bool> keep;
  for (const auto& name : cyclist.part_names) keep.push_back(name == "rider" || name == "helmet");
  Surface s = select_parts(cyclist, keep);
  drop_unused_points(s);
  return s;
}

Surface welded(Surface s) {
  weld(s);
  return s;
}

}  // namespace

const std::vector<std::string>& demo_names() {
  static const std::vector<std::string> names = {"marram", "barchan", "seif",
                                                 "rill",   "dirty",   "nabkha"};
  return names;
}

fs::path write_demo(const std::string& name, const fs::path& folder) {
  std::error_code status;
  fs::create_directories(folder, status);
  if (status)
    throw OutputError("the folder cannot be made (" + status.message() + ")", folder.string(),
                      "choose another one");
  const fs::path file = folder / (name + ".toml");
  if (name == "marram") {
    write_stl_ascii(folder / "marram.stl", marram());
    write_stl_ascii(folder / "side-skirts.stl", marram_side_skirts());
    write_obj(folder / "wheel-covers.obj", welded(marram_wheel_covers()));
    write_obj(folder / "tapered-tail.obj", welded(marram_tapered_tail()));
    write_text(file, marram_text());
  } else if (name == "barchan") {
    write_obj(folder / "barchan.obj", welded(barchan()));
    write_text(file, barchan_text());
  } else if (name == "seif") {
    write_obj(folder / "seif.obj", welded(seif()));
    write_obj(folder / "roof-fairing.obj", welded(seif_roof_fairing()));
    write_text(file, seif_text());
  } else if (name == "rill") {
    write_obj(folder / "rill-upright.obj", welded(rill(RillPosture::upright)));
    write_obj(folder / "rill-tucked-rider.obj", rider_of(welded(rill(RillPosture::tucked))));
    write_text(file, rill_text());
  } else if (name == "dirty") {
    write_stl_ascii(folder / "marram-dirty.stl", dirty_marram());
    write_text(file, dirty_text());
  } else if (name == "nabkha") {
    write_stl_ascii(folder / "nabkha.stl", nabkha());
    write_text(file, nabkha_text());
  } else {
    throw InputError("there is no demo named '" + name + "'", "demo",
                     "use one of marram, barchan, seif, rill, dirty, nabkha");
  }
  return file;
}

}  // namespace dunefield::garage
