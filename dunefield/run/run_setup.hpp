// One flow case: a vehicle, its tunnel, a mesh recipe, what flows and moves, and when it is done.
#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/flow/conditions.hpp>
#include <dunefield/geometry/vehicle.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/mesh/recipe.hpp>
#include <dunefield/mesh/tunnel.hpp>
#include <dunefield/record/readings.hpp>
#include <dunefield/run/judge.hpp>

namespace dunefield {

/// A part of the floor that moves with the road's speed; the floor around belts is fixed.
struct Belt {
  Vec3 centre;  ///< in vehicle axes, m
  double length = 0, width = 0;
  bool under_wheels = false;  ///< one like it under each wheel, instead of at `centre`
};

/// What the stream has where it is at rest, in a settling chamber say.
struct TotalConditions {
  double temperature = 288.15;  ///< K
  double pressure = 101325;     ///< Pa
};

/// What flows and what moves.
struct RunConditions {
  double speed = 0;        ///< of the stream, m/s
  double yaw = 0;          ///< rad; positive: air from the left, so that CY > 0
  bool crosswind = false;  ///< at yaw the road still comes from ahead
  Air air{};
  bool rolling_road = true;            ///< the road moves with the stream
  std::optional<double> road_speed{};  ///< m/s, if other than the stream's
  bool wheels_turn = true;             ///< with the road
  /// Sand-grain height of rough parts, m; "road" is the road
  std::map<std::string, double> roughness{};
  std::optional<FastAir> fast{};           ///< none: the air keeps its density
  std::optional<TotalConditions> total{};  ///< of fast air: `set_speed` makes its own of them
  std::map<std::string, double> wall_temperature{};  ///< K, of parts; others take no heat
  std::map<std::string, double> wall_heat{};         ///< from parts into the air, W/m2
  std::vector<Belt> belts{};                         ///< none: all of the road moves, or none of it
  /// Place from which on the floor has a boundary layer, m: what grew ahead is sucked away, the
  /// floor there moves with the stream. None: from the inflow on
  std::optional<double> boundary_layer_from{};

  /// The stream's; where its total conditions are given, temperature, density and viscosity with
  /// it (isentropic, Sutherland's viscosity).
  void set_speed(double to);
  double speed_of_road() const { return rolling_road ? road_speed.value_or(speed) : 0; }
};

/// Air at a temperature (K) and pressure (Pa): ideal gas, viscosity of Sutherland (1893).
Air air_at(double temperature, double pressure);

/// A part through which air enters or leaves the vehicle.
struct Opening {
  std::string part;
  double mass_flow = 0;              ///< into the vehicle, kg/s; negative: blown out
  std::optional<double> pressure{};  ///< instead: over that of the tunnel's outflow, Pa
};

/// When a run is done.
struct RunLimits {
  int iterations = 1000;      ///< at most
  bool until_settled = true;  ///< stop earlier when the means are known
  bool recombine = true;      ///< bring swings to rest that are too large for means
  /// None: 0.5 % of CD and 0.01 of CLF and CLR at `scout`, 2 % and 0.04 at `sketch`, 0.3 % and
  /// 0.006 at finer recipes
  std::optional<double> drag_accuracy{}, lift_accuracy{};
  /// Or, where that is more, half the interval of CD as a share of its difference from that of the
  /// baseline at the same conditions, lifts in proportion; 0: the difference does not count
  double difference_accuracy = 0;
  std::optional<double> baseline_drag{};  ///< CD, once it is known
};

/// A flow in time, from the state that the steady iterations end in.
struct TimeChoice {
  std::optional<double> step{};      ///< s
  double crossing = 2;               ///< else: surface leaves that the stream passes in a step
  std::optional<double> duration{};  ///< s
  double lengths = 20;               ///< else: vehicle's lengths that the stream passes
  int iterations = 12;               ///< in a step at most
  /// Of the momentum residual within a step, from that of its first iteration
  double fall = 0.02;
  /// The data of the readings' pictures is kept so often, for films; s
  std::optional<double> picture_every{};
};

/// What variants that are compared share; by default the vehicle's own.
struct CommonFrame {
  Box bounds{};                 ///< tunnel and recipe refer to it
  double frontal_area = 0;      ///< sets the tunnel's section, m2
  double reference_area = 0;    ///< of the coefficients, m2
  double reference_length = 0;  ///< of the moments, m
  /// The longest side of the longest vehicle, where there are several: sizes follow it, not the
  /// row. 0: that of the bounds
  double vehicle_length = 0;
};

struct RunSetup;

/// What the sizes of an adapted mesh come from. Variants share their baseline's.
struct Adaptation {
  std::shared_ptr<const RunSetup> sketch;  ///< whose flow tells where cells are needed
  std::shared_ptr<const RunSetup> plain;   ///< without adaptation: tells how many there shall be
};

struct RunSetup {
  Vehicle vehicle{};
  TunnelOptions tunnel{};
  Recipe recipe{};
  RunConditions conditions{};
  FlowOptions flow{};
  RunLimits limits{};
  std::optional<TimeChoice> time{};  ///< none: steady
  Readings readings{};
  std::vector<AirDevice> devices{};  ///< cores and fans, in the tunnel's axes
  std::vector<Opening> openings{};
  std::optional<CommonFrame> frame{};
  std::filesystem::path mesh_file{};  ///< VTU or CGNS, instead of meshing
  /// The baseline's surface, with the same facets: its mesh follows this vehicle's shape, instead
  /// of meshing anew. None: it is meshed
  std::shared_ptr<const Surface> morph_of{};
  /// With a recipe that adapts: where its sizes come from
  std::optional<Adaptation> adaptation{};
  /// The same, worked out; none: `build_mesh` runs the sketch first
  std::shared_ptr<const SizeField> field{};
  std::string campaign{};
  Settings settings{};               ///< what tells the run from others of its campaign
  std::string where = "run set-up";  ///< what messages name: a campaign file

  /// Checks everything at once and works out the sizes that give a wanted number of cells.
  /// @return assumptions, and warnings of what is unlikely
  /// @throw InputError with every fault, a line each
  Findings check();
  /// The same for another speed of a set-up that has been checked. @return what is unlikely
  Findings check_speed() const;
  /// The set-up in plain words, a line a subject.
  std::vector<std::string> in_words() const;

  CommonFrame common_frame() const;
  Box tunnel_box() const;
  /// Frontal area over the tunnel's section.
  double blockage() const;
  MeshOptions mesh_options() const;
  /// Surface leaves over those that the recipe alone would have; 1 where they are no larger.
  double coarseness() const;
  /// Share of what is seen from behind that ends at edges; a section's all.
  double blunt_end() const;
  ReferenceValues reference() const;
  AccuracyWanted accuracy() const;
  double time_step() const;      ///< s; 0 of a steady flow
  double time_duration() const;  ///< s
  /// What an opening takes out of the meshed air, m3/s: in half models of a part on both sides half
  /// of its flow.
  double meshed_flow(const Opening& opening) const;
};

/// Cells that the mesh will have, to about 10 %. @throw as `build_mesh`
double expected_cells(const RunSetup& setup);

/// Meshes the vehicle, or reads the mesh that the set-up names. A mesh that follows another shape
/// is made for that one first; where it cannot follow, the vehicle is meshed anew and the findings
/// say why.
/// @throw InputError, MeshError, Cancelled
MeshResult build_mesh(const RunSetup& setup, const Progress& progress = {});
/// The set-up of the mesh that the set-up's own follows. @param setup with `morph_of`
RunSetup followed_by(const RunSetup& setup);
/// The same as `build_mesh` where the mesh to follow from is there already.
MeshResult mesh_following(const RunSetup& setup, const MeshResult& baseline,
                          const Progress& progress = {});

/// The flow case on a mesh with these boundaries.
FlowCase flow_case(const RunSetup& setup, const std::vector<Boundary>& boundaries);

/// y+ to expect at the centre of a first cell of this height, m, at a speed. Friction as on a flat
/// plate half the vehicle's length from the nose: cf = 0.455 / ln^2(0.06 Re) (White 2006).
double expected_y_plus(const RunSetup& setup, double first_height, double speed);

/// Whether the mesh that a set-up names fits its vehicle; names its walls where they have no names.
/// @throw InputError for a file that does not fit, MeshError for a mesh that is not sound
MeshResult mesh_from_file(const RunSetup& setup, const Progress& progress);

}  // namespace dunefield
