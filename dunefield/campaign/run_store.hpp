// Where a campaign's runs are kept, and what of them is done.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/base/file_lock.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {

/// A hidden file beside a run's folder: the folder's name with a dot before and this ending.
std::filesystem::path beside(const std::filesystem::path& run_folder, const std::string& ending);

/// @param lock of a run's folder
/// @throw InputError that names who is computing the run, where it is not held
void refuse_unless_held(const FileLock& lock, const std::filesystem::path& run_folder);

/// What a setting adds to the name of a folder: "ride.front" of "-10 mm" is ride-front-m10-mm. Keys
/// of a campaign that end alike are told apart.
std::string setting_name(const Setting& setting, const Campaign& campaign);

/// Name of a run's folder, safe on every file system, each its own.
std::string run_name(const CampaignSetup& setup, const MatrixRun& run);

/// Whether a folder holds the run that the campaign describes now. What was run by another set-up
/// must not stand for it.
enum class Standing { current, out_of_date, missing };
inline constexpr const char* out_of_date_in_words =
    "out of date: it was run with another set-up than the campaign file has now";
/// @param folder of the run, there or not. @throw InputError for a damaged record
Standing standing_of(const std::filesystem::path& folder, const RunSetup& setup);

/// The runs of a campaign by the names of their folders, in order; damaged ones are left out. Other
/// folders hold no run of its file.
std::vector<std::pair<std::string, Standing>> standings(const CampaignSetup& setup,
                                                        const std::filesystem::path& folder);

/// What is left to do of a run.
enum class ToDo {
  nothing,
  readings,  ///< to be made again from the record
  limits,    ///< to be judged by other limits, and to go on if need be
  all,
};
/// @param folder of the run, there or not
ToDo left_to_do(const std::filesystem::path& folder, const RunSetup& setup);

/// Saves a record into a folder that is put in place at the end, with its readings, pictures and
/// open data; an earlier result of another set-up is kept under a name with a number.
/// @return what pictures could not be drawn. @throw OutputError
std::vector<std::string> store_run(const std::filesystem::path& folder, const Record& record,
                                   const Readings& readings);
/// The present state of a run that goes on: numbers, history, readings, pictures; replaces an
/// earlier look. @throw OutputError
void store_look(const std::filesystem::path& folder, const Record& record,
                const Readings& readings);
/// Makes readings and pictures of a stored record again, for a set-up that reads otherwise.
/// @return what pictures could not be drawn. @throw InputError, OutputError
std::vector<std::string> store_readings(const std::filesystem::path& folder, const RunSetup& setup);

/// Where the runs of a campaign go unless told otherwise: beside its file.
std::filesystem::path default_folder(const Campaign& campaign);

}  // namespace dunefield
