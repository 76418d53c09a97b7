// Taps and rakes read after each step of a flow in time.
#pragma once

#include <memory>

#include <dunefield/flow/flow_state.hpp>
#include <dunefield/record/probe_series.hpp>
#include <dunefield/record/taps.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {

/// Tells taps and rakes from others, for saved states.
std::string words_of(const Readings& readings);

/// One on each rank. Only the few values that are read go to the root.
class Probing {
 public:
  /// Collective. @param mesh the root's
  Probing(const RunSetup& setup, const VolumeMesh* mesh, const FlowMesh& share, Communicator& comm);

  /// On the root the next row. Collective.
  /// @param undisturbed pressure of the stream, Pa; the root's
  void read(const FlowState& state, double undisturbed, std::vector<float>& rows);
  /// Root: what the columns are of.
  std::vector<Probe> probes() const;

 private:
  /// What only the root has: fields of the whole mesh, filled where something is read.
  struct Root {
    Root(const RunSetup& setup, const VolumeMesh& mesh);
    Probes probes;
    ReferenceValues reference;
    std::vector<WallLoad> loads;
    std::vector<Vec3> velocity;
    std::vector<double> pressure;
    FlowReadings field;
    std::vector<int> cells, faces;  ///< in the order in which the ranks send them
  };
  Communicator& comm_;
  std::vector<int> cells_, faces_;  ///< of this rank's share: own cells, boundary faces
  std::unique_ptr<Root> root_;
};

}  // namespace dunefield
