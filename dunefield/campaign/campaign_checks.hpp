// What a campaign is checked for before anything is made.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/campaign_setup.hpp>

namespace dunefield {

/// A key of the campaign's file, as messages name its place.
std::string key(const Campaign& campaign, const char* name);

/// All surface files at once, before time is spent on those that are there. (A mesh that is not
/// there ends its own variant only.) @throw InputError for those that are not there
void check_files(const Campaign& campaign);

/// @throw InputError for a name in the file that is no part of any variant
void check_names(const Campaign& campaign, const std::vector<Vehicle>& vehicles);

/// Gives all variants the baseline's sizes and checks them, at all speeds; of those after the first
/// only warnings are told that are new.
/// @throw InputError
void check_variants(CampaignSetup& setup);

/// An accuracy of the histories that the meshes' scatter drowns is paid for in vain.
void warn_of_scatter(CampaignSetup& setup);

}  // namespace dunefield
