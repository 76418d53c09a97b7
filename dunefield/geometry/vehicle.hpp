// From surface files to a vehicle that stands in the tunnel's axes: nose towards -x, road at z = 0,
// origin at mid-wheelbase.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/base/findings.hpp>
#include <dunefield/geometry/files/step.hpp>
#include <dunefield/geometry/surface.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>

namespace dunefield {

/// A wheel given in numbers, in vehicle axes at full size; its facets are those in its cylinder.
struct GivenWheel {
  Wheel wheel;
  std::string from_part;  ///< empty: of any part
};

/// How a file's numbers become a placed vehicle.
struct VehicleOptions {
  /// Metres per number in the files; those that say their unit themselves do without
  double unit = 1;
  std::string nose = "-x";  ///< where it points in the files
  std::string up = "+z";    ///< where the roof points in the files
  double scale = 1;         ///< model over full size
  /// Height of the road in the upright file, m at full size. None: z = 0 where the lowest point is
  /// on or above it by a plausible clearance, else the lowest point
  std::optional<double> road{};
  /// The middle of its width is moved to y = 0, for half models; others are moved only where their
  /// track, or without wheels their middle, is clearly elsewhere
  bool centred = false;
  bool find_wheels = true;                 ///< bodies of revolution that stand on the road
  std::vector<std::string> wheel_parts{};  ///< parts that are wheels, whatever their shape says
  std::vector<GivenWheel> given_wheels{};
  CurveTolerance curves{};  ///< of CAD files
};

/// One of several vehicles in the tunnel.
struct VehicleGroup {
  std::string name;
  std::string prefix;  ///< of its parts' names; empty: the first vehicle, all other parts
  Box bounds{};
  double frontal_area = 0;  ///< m2
  double aside = 0;         ///< of the first, m
  bool present = true;      ///< in this variant
};

/// Whose part it is, by its name. @param all not empty
const VehicleGroup& group_of(const std::vector<VehicleGroup>& all, const std::string& part);

struct Vehicle {
  std::string name{};
  Surface surface{};  ///< placed, m
  std::vector<Wheel> wheels{};
  std::vector<VehicleGroup> group{};  ///< where there are several; else empty
  double scale = 1;                   ///< model over full size
  double frontal_area = 0;            ///< m2, computed
  Findings findings{};                ///< what was moved or assumed
};

/// Reads and places a vehicle.
/// @throw InputError for files that cannot be read, parts or wheels that do not exist
Vehicle read_vehicle(const std::filesystem::path& file, const VehicleOptions& options = {});
Vehicle read_vehicle(const std::vector<std::filesystem::path>& files,
                     const VehicleOptions& options = {});

/// A surface turned upright, in metres at model size, not yet placed.
Surface upright(Surface as_given, const VehicleOptions& o);
/// The same of files.
Surface read_upright(const std::vector<std::filesystem::path>& files, const VehicleOptions& o);

/// The shift that puts an upright surface on the road with mid-wheelbase (without two axles: the
/// middle of its length) at x = 0. What is moved up, down or sideways is told as a warning with the
/// distance.
Vec3 placement(const Surface& upright, const VehicleOptions& options, Findings& findings);

/// Places an upright surface by a known shift and finds its wheels. The frontal area is left to be
/// measured once nothing moves any more. @param where names the wheels in messages
Vehicle placed_vehicle(std::string name, Surface upright, const Vec3& shift,
                       const VehicleOptions& options, const std::string& where);

/// How the wheels turn, told once for all that turn alike: a wrong direction looks plausible.
void report_turning(const std::vector<Wheel>& wheels, double road_speed, Findings& findings);

}  // namespace dunefield
