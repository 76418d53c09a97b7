// The state of a run on disk, from which it goes on as if it had not stopped.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include <dunefield/flow/flow_solver.hpp>
#include <dunefield/record/history.hpp>

namespace dunefield {

/// What a saved state belongs to: both must be equal for a run to go on from it.
struct StateKey {
  std::string flow;  ///< hash of what decides the flow
  std::string mesh;  ///< fingerprint of the mesh
};

/// A saved state without its fields, which stay on disk until somebody wants them.
struct SavedState {
  StateKey key;
  double courant = 0;
  bool warm = false;  ///< the run started from another's result
  int iteration = 0;
  std::vector<HistoryRow> history;
  std::vector<float> part_history, probe_history;  ///< see CaseRun
  std::string probes;                              ///< what is read in time: `words_of`
  std::vector<int> own;                            ///< cells of each rank
};

/// Where the state before the one in `file` is kept, in case that one gets damaged.
std::filesystem::path state_before(const std::filesystem::path& file);

/// Writes beside the file and puts it in place when it is complete, so that being killed at any
/// moment leaves the earlier one. Each part carries a checksum. Collective: every rank writes its
/// own state.
/// @param state what the root knows: key, courant and history. @throw OutputError on all ranks
void save_state(const std::filesystem::path& file, const SavedState& state,
                const FlowSolver& solver, Communicator& comm);

/// Reads all of it once, one rank's part at a time. Nothing if there is no such file. @throw
/// InputError when it is cut short or altered
std::optional<SavedState> read_saved_state(const std::filesystem::path& file);

/// One rank's part: each rank reads its own. @throw InputError
SolverState read_state(const std::filesystem::path& file, int rank);

/// The fields in the order of the whole mesh, to start a run on another number of ranks or with
/// other settings. @throw InputError
Fields read_fields(const std::filesystem::path& file);

}  // namespace dunefield
