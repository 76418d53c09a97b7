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

/// A state read back, complete on the root.
struct Checkpoint {
  CheckpointKey key;
  double courant = 0;
  std::vector<HistoryRow> history;
  std::vector<SolverState> ranks;  ///< of each rank
  std::vector<int> own;            ///< cells that each rank owns, first in its arrays

  /// The fields in the order of the whole mesh, to start a run on another number of ranks or with other settings.
  FlowFields fields() const;
};

/// Hash of all that makes a mesh.
std::string mesh_fingerprint(const VolumeMesh& mesh);

/// Where the state before the one in `file` is kept, in case that one gets damaged.
std::filesystem::path checkpoint_before(const std::filesystem::path& file);

/// Writes beside the file and puts it in place when it is complete, so that being killed at any moment leaves the earlier one.
/// Each part carries a checksum. Collective: every rank writes its own state.
/// @param state what the root knows: all but `ranks` and `own`. @throw OutputError on all ranks
void write_checkpoint(const std::filesystem::path& file, const Checkpoint& state, const FlowSolver& solver, Communicator& comm);

/// Nothing if there is no such file. @throw InputError when it is cut short or altered
std::optional<Checkpoint> read_checkpoint(const std::filesystem::path& file);

}  // namespace dunefield
