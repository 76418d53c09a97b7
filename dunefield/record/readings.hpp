// What is read from a record besides forces, as tables: taps, rakes, planes, the build-up along the
// vehicle.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/record/build_up.hpp>
#include <dunefield/record/planes.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {

/// A picture that each run shall leave, in the words of look/picture_request.hpp.
struct WantedPicture {
  std::string name;
  std::vector<Setting> words;  ///< "slice", "y = 0, Cp"
};

/// Changing what is read never runs anything again.
struct Readings {
  std::vector<Tap> taps{};
  std::vector<Rake> rakes{};
  std::vector<MeasuringPlane> planes{};
  std::vector<WantedPicture> pictures{};
  std::string units = "si";  ///< of pictures and charts (base/display_units.hpp)
};

/// `build-up.csv`, and `taps.csv`, `rakes.csv`, `planes.csv` if there is something to read.
/// @throw OutputError
void write_readings(const std::filesystem::path& folder, const Record& record,
                    const Readings& readings);

/// Those that a record was made with.
Readings readings_of(const Record& record);

/// Forces from the nose on.
BuildUp build_up(const Record& record, int stations = 200);

}  // namespace dunefield
