// Some runs of a campaign, named as a user names them.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/campaign_setup.hpp>

namespace dunefield {

/// Names of variants, and speeds with their unit, like "90 km/h"; none: all.
struct WantedRuns {
  std::vector<std::string> variants, speeds;
  bool all() const { return variants.empty() && speeds.empty(); }
};

/// Number of a variant that was asked for by its name. @throw InputError where none has it
std::size_t wanted_variant(const CampaignSetup& setup, const std::string& name);

/// The campaign's matrix, in which those of a wanted variant at a wanted speed are wanted.
/// @throw InputError for a variant or a speed that the campaign has not
std::vector<MatrixRun> matrix_with(const WantedRuns& wanted, const CampaignSetup& setup);

}  // namespace dunefield
