// The campaign file: one TOML file with vehicle, variants, tunnel, mesh recipe and run matrix.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/flow/conditions.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/mesh/tunnel.hpp>

namespace dunefield {

/// Lengths in metres, speeds in m/s; paths as found from the campaign file's folder.
struct Campaign {
  std::filesystem::path file;
  std::string name;

  std::vector<std::filesystem::path> surfaces;  ///< [vehicle] files
  double unit = 1;                              ///< [vehicle] unit: metres per number in the files
  std::string nose = "-x";                      ///< [vehicle] nose: where it points in the files
  std::string up = "+z";                        ///< [vehicle] up
  double scale = 1;                             ///< [vehicle] scale: model over full size

  bool find_wheels = true;                      ///< [wheels] find
  std::vector<std::string> wheel_parts;         ///< [wheels] parts: named ones, instead of finding
  bool wheels_turn = true;                      ///< [wheels] turn

  TunnelOptions tunnel;
  bool rolling_road = true;                     ///< [tunnel] road
  std::optional<double> road_speed;             ///< [tunnel] road_speed, if other than the stream's

  std::string recipe = "scout";                 ///< [mesh] recipe
  std::optional<double> surface_size;           ///< [mesh] surface_size
  std::map<std::string, double> part_size;      ///< [mesh.parts]
  std::vector<RefinedBox> boxes;                ///< [[mesh.box]]

  Air air;
  FlowOptions flow;
  int iterations = 400;                         ///< [flow] iterations: at most
  bool until_settled = true;                    ///< [flow] until_settled: stop earlier when the means stand still

  std::optional<double> frontal_area;           ///< [reference] frontal_area, if not the computed one
  std::optional<double> wheelbase;              ///< [reference] wheelbase, if not the one of the wheels

  std::vector<double> speeds;                   ///< [runs] speeds

  struct Variant {
    std::string name;
    std::vector<std::filesystem::path> add;
    std::vector<std::string> remove;            ///< part names
  };
  std::vector<Variant> variants;                ///< the first is the baseline
};

/// @throw InputError naming file, line and key for anything unknown, missing, of the wrong type, unit or sign
Campaign read_campaign(const std::filesystem::path& file);

}  // namespace dunefield
