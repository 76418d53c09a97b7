// The state of a run on disk, from which it goes on as if it had not stopped.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include <dunefield/campaign/run.hpp>

namespace dunefield {

/// What a saved state belongs to: its texts must be equal for a run to go on from it.
struct CheckpointKey {
  std::string setup;  ///< the resolved set-up without the limits that may change between
  std::string mesh;   ///< fingerprint of the mesh
};

/// A saved state without its fields, which stay on disk until somebody wants them.
struct Checkpoint {
  CheckpointKey key;
  double courant = 0;
  int iteration = 0;
  std::vector<HistoryRow> history;
  std::vector<int> own;  ///< cells of each rank
};

/// Hash of all that makes a mesh.
std::string mesh_fingerprint(const VolumeMesh& mesh);

/// Where the state before the one in `file` is kept, in case that one gets damaged.
std::filesystem::path checkpoint_before(const std::filesystem::path& file);

/// Writes beside the file and puts it in place when it is complete, so that being killed at any
/// moment leaves the earlier one. Each part carries a checksum. Collective: every rank writes its
/// own state.
/// @param state what the root knows: key, courant and history. @throw OutputError on all ranks
void write_checkpoint(const std::filesystem::path& file, const Checkpoint& state,
                      const FlowSolver& solver, Communicator& comm);

/// Reads all of it once, one rank's part at a time. Nothing if there is no such file. @throw
/// InputError when it is cut short or altered
std::optional<Checkpoint> read_checkpoint(const std::filesystem::path& file);

/// One rank's part: each rank reads its own. @throw InputError
SolverState read_state(const std::filesystem::path& file, int rank);

/// The fields in the order of the whole mesh, to start a run on another number of ranks or with
/// other settings. @throw InputError
FlowFields read_fields(const std::filesystem::path& file);

}  // namespace dunefield
