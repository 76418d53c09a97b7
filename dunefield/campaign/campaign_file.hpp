// The campaign file: one TOML file with vehicle, variants, tunnel, mesh recipe and run matrix.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/base/display_units.hpp>
#include <dunefield/campaign/claims.hpp>
#include <dunefield/campaign/companions.hpp>
#include <dunefield/campaign/device_tables.hpp>
#include <dunefield/campaign/run_matrix.hpp>
#include <dunefield/campaign/search_task.hpp>
#include <dunefield/campaign/wind.hpp>
#include <dunefield/geometry/ride.hpp>
#include <dunefield/geometry/shape_change.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {

/// One thing a variant does to its parts.
struct Change {
  enum class Kind { move, turn, scale, reshape, mirror, replace, close, open };
  Kind kind = Kind::move;
  std::string part;
  Vec3 vector;  ///< way of a move, axis of a turn, a place near the rim of the opening to close
  double amount = 0;  ///< angle or factor
  std::optional<Vec3> about;
  bool copy = true;  ///< mirror: keep the part and add its mirror image
  std::filesystem::path file;
  std::string name;  ///< of the boundary that closes an opening
  Box region;        ///< facets with their middle in it are taken away
  /// Of `reshape`; a box of no size: the part's, or the vehicle's
  ShapeChange shape;
  std::string where;  ///< file and line
};

/// [section]: in two dimensions, of where a lengthwise plane cuts the vehicle.
struct SectionChoice {
  double at = 0;                      ///< y of the plane, at full size, m
  bool ground = true;                 ///< over the road; else in a stream without bounds
  std::optional<double> clearance{};  ///< of its lowest point over the road, m; none: as it is
  std::optional<double> chord{};      ///< m at full size; none: the longest way across the outline
  bool by_height = false;             ///< coefficients refer to its height instead
};

/// Lengths in metres, speeds in m/s; paths as found from the campaign file's folder.
struct Campaign {
  std::filesystem::path file;
  /// Of the file when it was read: runs with other settings come from it, so that a file may be
  /// edited while its runs go on; empty in a campaign that a program has made
  std::string text;
  std::string name;
  DisplayUnits units;  ///< of tables: units = "us", else SI

  std::vector<std::filesystem::path> surfaces;  ///< [vehicle] files
  std::vector<std::string> shapes_of_vehicle;   ///< [vehicle] shapes: of all variants
  std::vector<Surface> shapes;           ///< [[shape]]: one part each, in vehicle axes, full size
  Surface surface;                       ///< in memory, in addition to files; turned as these
  VehicleOptions placing;                ///< [vehicle], [wheels], [[wheel]]
  std::string vehicle_name = "vehicle";  ///< of the first, where there are several
  std::vector<Companion> companions;     ///< [[vehicle]] after the first
  Ride ride;                             ///< [ride]
  std::optional<SectionChoice> section;  ///< [section]

  // What all runs have in common.
  TunnelOptions tunnel;      ///< [tunnel]
  Recipe recipe;             ///< [mesh], [mesh.layers], [mesh.parts], [[mesh.box]], sheets
  RunConditions conditions;  ///< [air], [roughness], road, wheels, yaw; the speed is each run's own
  FlowOptions flow;          ///< [flow]
  RunLimits limits;          ///< [flow] iterations, until_settled, the accuracies
  Readings readings;         ///< [[tap]], [[rake]], [[plane]]
  std::optional<TimeChoice> time;      ///< [time]
  double stream_temperature = 288.15;  ///< [air], K
  std::vector<Opening> openings;       ///< [[opening]]
  std::vector<AirDevice> devices;      ///< [[core]], [[fan]], in vehicle axes at full size
  /// Parts of the surface that are the places of devices, by these' names: air, no walls
  std::map<std::string, std::string> part_of_device;

  /// [flow] start: from the campaign's earlier run, else from the stream
  bool start_earlier = true;
  /// [flow] start: the folder of a run that the first one starts from; empty: none
  std::filesystem::path start_run;
  /// [mesh] morph: variants that differ from the first in shape alone run on its mesh, moved
  bool morph = true;
  int lattices = 1;  ///< [certainty] lattices: positions of the octree that each variant is run on
  double save_every = 300;  ///< [flow] save_every: s between saved states of a run

  std::optional<double> frontal_area;  ///< [reference] frontal_area, if not the computed one
  std::optional<double> wheelbase;     ///< [reference] wheelbase, if not the one of the wheels

  std::vector<double> speeds;  ///< [runs] speeds
  /// [runs] reynolds: turned into speeds once the wheelbase is known
  std::vector<double> reynolds_numbers;
  /// [runs] yaw, [runs.sweep], [[runs.combination]]: what runs differ in besides variant and speed
  std::vector<Settings> settings = std::vector<Settings>(1);

  struct Variant {
    std::string name;
    std::vector<std::filesystem::path> add;
    Surface surface;                                  ///< in memory, added as files are
    std::vector<std::string> remove;                  ///< part names
    std::vector<std::string> shapes;                  ///< names of [[shape]]
    std::vector<std::string> vehicles;                ///< that are there; empty: all
    std::optional<std::vector<std::string>> devices;  ///< that are there; none: all
    std::vector<Change> changes;                      ///< [[variant.change]], in order
    Ride ride;                                        ///< [variant.ride], on top of [ride]
    std::filesystem::path mesh;                       ///< a CGNS file to run on, instead of meshing
  };
  /// The first sets the common frame: tunnel, sizes and reference area are its
  std::vector<Variant> variants;
  std::string baseline;  ///< [compare] baseline: what the others are compared with; the first
  Wants wants;           ///< [compare] want
  std::vector<Formula> formulas;     ///< [[figure]]
  std::vector<Round> rounds;         ///< [[round]]
  std::vector<Claim> claims;         ///< [[claim]]
  double wind = usual_wind;          ///< [compare] wind: drag is averaged over where runs yaw, m/s
  std::optional<SearchTask> search;  ///< [search]
};

/// @throw InputError naming file, line and key for anything unknown, missing, of the wrong type,
/// unit or sign
/// @param settings keys that get another value than the file's; none: the first of its own
Campaign read_campaign(const std::filesystem::path& file, const Settings& settings = {});

/// The same of a campaign's text. @param file names it in errors; paths in it start from its folder
Campaign parse_campaign(const std::string& text, const std::filesystem::path& file,
                        const Settings& settings = {});

}  // namespace dunefield
