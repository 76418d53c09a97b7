// The report of a campaign: one file that opens anywhere. The reader's question comes first: which
// variant wins, by how much, how sure; then why; then everything else.
#pragma once

#include <filesystem>

#include <dunefield/base/progress.hpp>
#include <dunefield/campaign/campaign_setup.hpp>

namespace dunefield {

struct ReportOptions {
  std::string version;  ///< of the program, for the provenance
};

/// Reads what there is of the campaign's runs in a folder; what is missing or failed is said.
/// @return the page. @throw InputError when no run is finished, Cancelled
std::string report_page(const CampaignSetup& setup, const std::filesystem::path& runs,
                        const ReportOptions& options = {}, const Progress& progress = {});

/// Where it goes unless told otherwise: beside the runs' folder.
std::filesystem::path default_report(const std::filesystem::path& runs);

}  // namespace dunefield
