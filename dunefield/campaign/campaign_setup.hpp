// From a campaign's file to the set-ups of its runs: vehicles placed alike in one common tunnel.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include <dunefield/campaign/campaign_file.hpp>

namespace dunefield {

/// One run of a matrix.
struct MatrixRun {
  std::size_t variant = 0;
  double speed = 0;         ///< m/s
  std::size_t setting = 0;  ///< of the campaign's settings
  int lattice = 0;          ///< from 0
  bool wanted = true;       ///< else others start from it and are compared with it if it is done
};

struct CampaignSetup {
  Campaign campaign;               ///< speeds of Reynolds numbers are among its speeds
  std::vector<RunSetup> variants;  ///< with the first setting, at the first speed; the first is the
                                   ///< frame of all
  Vec3 shift;                      ///< that has placed the vehicles
  Findings findings;               ///< assumptions and warnings

  /// Of a variant by its name; how many there are where none has it.
  std::size_t number_of(const std::string& variant) const {
    return static_cast<std::size_t>(
        std::find_if(variants.begin(), variants.end(),
                     [&](const RunSetup& v) { return v.vehicle.name == variant; }) -
        variants.begin());
  }
  /// All runs in their order: by lattice, variant, setting, speed.
  std::vector<MatrixRun> matrix() const;
  /// Those that concern its variant.
  Settings settings_of(const MatrixRun& which) const;
  /// @throw InputError where a setting does not go with the vehicle
  RunSetup run(const MatrixRun& which) const;
  /// What the baseline gives to all.
  const CommonFrame& frame() const { return *variants.front().frame; }
};

/// @throw InputError with every fault
CampaignSetup prepare(const Campaign& campaign);

/// The set-up in plain words, a line a subject.
std::vector<std::string> describe(const CampaignSetup& setup);

}  // namespace dunefield
