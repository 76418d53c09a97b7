// [[variant]] of a campaign file, its [[variant.change]], and what it has in common with the file.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/campaign/campaign_file.hpp>
#include <dunefield/campaign/table.hpp>

namespace dunefield {

/// Files that a file names stand beside it, unless their path is a whole one.
std::vector<std::filesystem::path> files_beside(const std::filesystem::path& file,
                                                const std::vector<std::string>& names);

/// Heights of ride, m, and pitch, rad. @throw InputError for a pitch that no vehicle has
Ride read_ride(Table t);

/// Fills in the campaign's variants; without any there is one, "as it is".
/// @throw InputError for names that are missing or stand twice, and changes that are none or
/// several at once
void read_variants(std::vector<Table> tables, Campaign& c);

}  // namespace dunefield
