// The run before, from whose result the next one of a campaign starts: at another speed, or of another variant.
#pragma once

#include <filesystem>
#include <optional>

#include <dunefield/campaign/vehicle_setup.hpp>

namespace dunefield {

/// All that is needed lies in the run's folder, so that a campaign that was interrupted goes on with the same starts.
struct EarlierRun {
  std::size_t variant = 0;       ///< in the campaign's set-up
  double speed = 0;              ///< m/s
  std::filesystem::path folder;  ///< with the run's saved state

  /// Its fields at another speed, on another mesh if that is another variant's: `own_mesh`, or meshed again if that is not at hand.
  /// Nothing if they cannot be had, with the reason among the findings. @param mesh of the run that is to start
  std::optional<FlowFields> start_for(const CampaignSetup& setup, const VolumeMesh& mesh, double at_speed, const VolumeMesh* own_mesh, Findings& findings, const Progress& progress) const;
};

}  // namespace dunefield
