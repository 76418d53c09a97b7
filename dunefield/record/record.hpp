// What a run leaves: mesh, fields, wall loads, history, means, and the set-up that led to them. In
// memory, or as a folder that can be opened again at any time with the same numbers.
#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include <dunefield/base/findings.hpp>
#include <dunefield/base/progress.hpp>
#include <dunefield/flow/fields.hpp>
#include <dunefield/mesh/quality/quality.hpp>
#include <dunefield/record/history.hpp>
#include <dunefield/record/probe_series.hpp>
#include <dunefield/record/setting.hpp>
#include <dunefield/record/taps.hpp>

namespace dunefield {

/// What must be made again when something changes: 128 bits each, as hexadecimal digits.
struct RunHashes {
  std::string mesh;      ///< geometry, tunnel, recipe, version of the mesher
  std::string flow;      ///< that mesh, conditions, models, version of the solver
  std::string readings;  ///< taps, rakes, planes, pictures: made again from the record
};

/// Which run it is.
struct RunIdentity {
  std::string campaign, variant, recipe;
  double speed = 0;  ///< m/s
  double yaw = 0;    ///< rad
  bool half = false;
  int layers = 0;   ///< on the vehicle's wall
  int lattice = 0;  ///< position of the octree (Recipe), from 0; files and tables count from 1
  RunHashes hashes;
  Settings settings;  ///< that tell it from other runs of the campaign
  /// Surface leaves over those of the recipe, where sizes of one's own make them larger; else 1
  double coarseness = 1;
  /// Share of what is seen from behind that ends at edges (RearView): the less, the more the mesh
  /// decides where the air leaves the vehicle
  double blunt = 0;
  std::string units = "si";  ///< that people read (base/display_units.hpp); numbers here are SI
  /// On the baseline's mesh, which followed the shape: the cells lie alike in both
  bool follows = false;
};

/// The figures that tables and comparisons need; read without opening mesh and fields.
struct Figures {
  RunIdentity run;
  RunStatus status = RunStatus::not_converged;
  std::string why;
  int iterations = 0, cells = 0;
  ReferenceValues reference;
  WindowMean cd, cl, clf, clr, cy;
  std::vector<PartMean> parts;          ///< add to the means of CD and CL
  std::vector<VehicleMean> vehicles;    ///< where several are in the tunnel
  double drag = 0, lift = 0, side = 0;  ///< N, of the mean coefficients
  double frontal_area = 0;              ///< of the variant, m2
  double seconds = 0;
  std::string limits;  ///< JSON: iterations and accuracies that it was judged by

  bool settled() const { return status == RunStatus::steady || status == RunStatus::fluctuating; }
};

/// What tells whether the flow solution can be believed, besides its history.
struct RunChecks {
  double mass_balance = 0;    ///< net flux over inflow
  double backflow_share = 0;  ///< of the outflow's area
  double wake_plane = 0;      ///< x of a section behind the vehicle, m
  double wake_drag = 0;       ///< N: what the stream has lost of its momentum until there
  int first_order_cells = 0;  ///< that had to go on with first order
  double blockage = 0;        ///< frontal area over the tunnel's section
  /// Dynamic pressure at the vehicle over that of the stream, by the tunnel's rule for bluff bodies
  double blockage_factor() const { return (1 + 0.25 * blockage) * (1 + 0.25 * blockage); }
};

struct Record {
  RunIdentity run;
  std::string setup = "{}";  ///< JSON: everything that decided the result
  std::vector<std::string> setup_in_words;

  std::shared_ptr<const VolumeMesh> mesh;
  MeshQuality quality;
  Box vehicle, tunnel;
  double frontal_area = 0;  ///< computed, m2
  Air air;
  ReferenceValues reference;

  Fields fields;
  std::vector<WallLoad> loads;  ///< per boundary face
  /// By what they are of ("CD"), per boundary face: its change per mm that the surface moves
  /// outwards and m2 (dunefield/sensitivity); those that were asked for
  std::map<std::string, std::vector<double>> sensitivities;
  Balance balance;    ///< of the last state
  Coefficients last;  ///< of the last state
  std::vector<HistoryRow> history;
  ProbeSeries probes;  ///< taps and rakes over time; of flows in time
  std::vector<PartMean> part_means;
  std::vector<VehicleMean> vehicle_means;  ///< where several are in the tunnel
  Convergence convergence;
  RunStatus status = RunStatus::not_converged;
  RunChecks checks;
  double courant = 0;  ///< really used: smaller than asked for after a back-off
  int ranks = 1;
  double seconds = 0;
  Findings findings;
  Findings mesh_findings;  ///< told when the mesh was made; the same for all runs on it

  /// True when the means are known to the accuracy asked for.
  bool usable() const { return status == RunStatus::steady || status == RunStatus::fluctuating; }
  /// What keeps it from being usable, or how it swings; empty if steady.
  const std::string& why() const { return convergence.why; }
  /// Time of the first step that the means of a flow in time take in, s; 0 of a steady one.
  double means_from_time() const;
  /// One line: "CD 0.2815 +- 0.0012, CL -0.065 +- 0.004, drag 46.1 N, steady".
  std::string brief() const;
  Figures figures() const;
  FlowReadings readings() const {
    return {*mesh, loads, fields.u, fields.p, balance.undisturbed_pressure, run.half};
  }

  /// Opens a record's folder. @throw InputError that names the file which is missing, damaged or of
  /// a newer version, and says what to do
  static Record open(const std::filesystem::path& folder, const Progress& progress = {});
  /// Writes the record's own files into a folder, made if need be; others there stay.
  /// @throw OutputError
  void save(const std::filesystem::path& folder) const;
};

/// @throw InputError as Record::open
Figures read_figures(const std::filesystem::path& folder);

/// A record's files in its folder.
namespace record_file {
inline constexpr char numbers[] = "record.json", history[] = "history.csv",
                      arrays[] = "record.arrays", state[] = "state.bin",
                      sensitivities[] = "sensitivity.arrays";
}

/// Adds a sensitivity to a record's folder, or replaces it. @throw OutputError, InputError
void save_sensitivity(const std::filesystem::path& folder, Record& record, const std::string& of,
                      std::vector<double> on_wall);

/// Mesh and fields for other programs: `air.vtu` and `wall.vtp` (VTK XML). @throw OutputError
void write_open_data(const std::filesystem::path& folder, const Record& record);

/// Hash of all that makes a mesh: fields belong to it.
std::string fingerprint_of(const VolumeMesh& mesh);

}  // namespace dunefield
