// From a campaign's file to the set-ups of its runs: vehicles placed alike in one common tunnel.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/campaign_file.hpp>

namespace dunefield {

struct CampaignSetup {
  Campaign campaign;               ///< speeds of Reynolds numbers are among its speeds
  std::vector<RunSetup> variants;  ///< at the first speed; the first is the baseline
  Findings findings;               ///< assumptions and warnings

  /// A variant's set-up at a speed, on the lattice of this number, from 0.
  RunSetup run(std::size_t variant, double speed, int lattice = 0) const;
  std::size_t runs() const {
    return variants.size() * campaign.speeds.size() * static_cast<std::size_t>(campaign.lattices);
  }
  /// What the baseline gives to all.
  const CommonFrame& frame() const { return *variants.front().frame; }
};

/// @throw InputError with every fault
CampaignSetup prepare(const Campaign& campaign);

/// The set-up in plain words, a line a subject.
std::vector<std::string> describe(const CampaignSetup& setup);

}  // namespace dunefield
