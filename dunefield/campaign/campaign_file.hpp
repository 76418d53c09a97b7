// The campaign file: one TOML file with vehicle, variants, tunnel, mesh recipe and run matrix.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/campaign/convergence.hpp>
#include <dunefield/flow/conditions.hpp>
#include <dunefield/geometry/surface.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/mesh/tunnel.hpp>
#include <dunefield/record/planes.hpp>

namespace dunefield {

/// Change of the body's height over its wheels, which stay on the road.
struct Ride {
  double front = 0, rear = 0;  ///< up positive, at the foremost and the rearmost axle, m
  double pitch = 0;            ///< nose up, about mid-wheelbase, rad
  bool none() const { return front == 0 && rear == 0 && pitch == 0; }
};

/// A wheel given in numbers; its facets are those within its cylinder.
struct GivenWheel {
  Wheel wheel;
  std::string from_part;  ///< empty: of any part
};

/// What the file says of wall layers; the rest is the recipe's.
struct LayerChoice {
  std::optional<int> count;
  std::optional<double> growth;
  std::optional<double> first_height, total, total_leaves;  ///< at most one of these and y_plus
  std::optional<double> y_plus;      ///< of the first cell's centre, at the first speed
  std::vector<std::string> without;  ///< parts
};

/// One thing a variant does to its parts.
struct Change {
  enum class Kind { move, turn, scale, mirror, replace, close, open };
  Kind kind = Kind::move;
  std::string part;
  Vec3 vector;  ///< way of a move, axis of a turn, a place near the rim of the opening to close
  double amount = 0;  ///< angle or factor
  std::optional<Vec3> about;
  bool copy = true;  ///< mirror: keep the part and add its mirror image
  std::filesystem::path file;
  std::string name;   ///< of the boundary that closes an opening
  Box region;         ///< facets with their middle in it are taken away
  std::string where;  ///< file and line
};

/// Lengths in metres, speeds in m/s; paths as found from the campaign file's folder.
struct Campaign {
  std::filesystem::path file;
  std::string name;

  std::vector<std::filesystem::path> surfaces;  ///< [vehicle] files
  double unit = 1;                              ///< [vehicle] unit: metres per number in the files
  std::string nose = "-x";                      ///< [vehicle] nose: where it points in the files
  std::string up = "+z";                        ///< [vehicle] up
  double scale = 1;                             ///< [vehicle] scale: model over full size
  std::vector<std::string> sheets;              ///< [vehicle] sheets: parts with air on both sides
  std::vector<std::string> shapes_of_vehicle;   ///< [vehicle] shapes: of all variants
  std::vector<Surface> shapes;  ///< [[shape]]: one part each, in vehicle axes, full size
  Ride ride;                    ///< [ride]

  bool find_wheels = true;               ///< [wheels] find
  std::vector<std::string> wheel_parts;  ///< [wheels] parts: named ones, instead of finding
  bool wheels_turn = true;               ///< [wheels] turn
  std::vector<GivenWheel> given_wheels;  ///< [[wheel]], in vehicle axes, full size

  TunnelOptions tunnel;
  bool rolling_road = true;          ///< [tunnel] road
  std::optional<double> road_speed;  ///< [tunnel] road_speed, if other than the stream's

  std::string recipe = "scout";             ///< [mesh] recipe
  std::optional<double> surface_size;       ///< [mesh] surface_size
  std::map<std::string, double> part_size;  ///< [mesh.parts]
  std::vector<RefinedBox> boxes;            ///< [[mesh.box]]
  /// [mesh], where not the recipe's
  std::optional<double> smallest_size, edge_size, cells_per_turn, gap_cells, thin_cells;
  std::optional<double> target_cells;  ///< [mesh] cells: picks the sizes
  LayerChoice layers;                  ///< [mesh.layers]

  std::map<std::string, double> roughness;  ///< [roughness]: sand-grain height by part; "road" too

  std::vector<Tap> taps;               ///< [[tap]]
  std::vector<Rake> rakes;             ///< [[rake]]
  std::vector<MeasuringPlane> planes;  ///< [[plane]]

  Air air;
  FlowOptions flow;
  /// [flow] start: from the campaign's earlier run, else from the stream
  bool start_earlier = true;
  /// [flow] start: the folder of a run that the first one starts from; empty: none
  std::filesystem::path start_run;
  int iterations = 1000;      ///< [flow] iterations: at most
  bool until_settled = true;  ///< [flow] until_settled: stop earlier when the means are known
  AccuracyWanted accuracy;    ///< [flow] accuracy (of CD), lift_accuracy
  double save_every = 300;    ///< [flow] save_every: s between saved states of a run

  std::optional<double> frontal_area;  ///< [reference] frontal_area, if not the computed one
  std::optional<double> wheelbase;     ///< [reference] wheelbase, if not the one of the wheels

  std::vector<double> speeds;  ///< [runs] speeds
  /// [runs] reynolds: turned into speeds once the wheelbase is known
  std::vector<double> reynolds_numbers;
  double yaw = 0;          ///< [runs] yaw, rad; positive: air from the left, so that CY > 0
  bool crosswind = false;  ///< [runs] yaw_kind: the road still comes from ahead

  struct Variant {
    std::string name;
    std::vector<std::filesystem::path> add;
    std::vector<std::string> remove;  ///< part names
    std::vector<std::string> shapes;  ///< names of [[shape]]
    std::vector<Change> changes;      ///< [[variant.change]], in order
    Ride ride;                        ///< [variant.ride], on top of [ride]
    std::filesystem::path mesh;       ///< a CGNS file to run on, instead of meshing
  };
  std::vector<Variant> variants;  ///< the first is the baseline
};

/// The word for a model in the file.
const char* turbulence_key(TurbulenceModel model);

/// @throw InputError naming file, line and key for anything unknown, missing, of the wrong type,
/// unit or sign
Campaign read_campaign(const std::filesystem::path& file);

}  // namespace dunefield
