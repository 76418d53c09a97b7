// The folder of one run: resolved set-up, history, balance, mesh with fields, surface, pictures.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include <dunefield/campaign/run.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {

/// The figures of a finished run that comparisons need, read back from its `balance.json`.
struct RunFigures {
  std::string variant;
  double speed = 0;  ///< m/s
  bool half = false;
  std::string status;
  int iterations = 0;
  ReferenceValues reference;
  WindowMean cd, cl, clf, clr, cy;
  double drag = 0, lift = 0, side = 0;  ///< N, of the mean coefficients
  double frontal_area = 0;              ///< of the variant, m2
  int cells = 0;
  double seconds = 0;
};

/// A folder name made of the variant's name and the speed, safe on every file system.
std::string run_name(const std::string& variant, double speed);

/// A hidden file beside a run's folder: the folder's name with a dot before and this ending.
std::filesystem::path beside(const std::filesystem::path& run_folder, const std::string& ending);

/// Everything that decides the result, as JSON text: two runs with the same text need not both be
/// done.
std::string resolved_setup(const CampaignSetup& setup, const PlacedVariant& variant, double speed);

/// The same without what only says how long the run goes on: with other limits a saved state is
/// gone on from.
std::string without_limits(const std::string& setup_text);

/// The figures of a folder whose set-up is the same and whose run came to its end; none otherwise.
std::optional<RunFigures> finished_run(const std::filesystem::path& folder,
                                       const std::string& setup_text);

/// Throws OutputError if nothing can be written below `folder`; makes it if need be.
void check_writable(const std::filesystem::path& folder);

/// Writes all files into a fresh folder beside it and puts that in place at the end; an earlier
/// result of another set-up is kept under a name with a number. @throw OutputError
RunFigures write_run(const std::filesystem::path& folder, const CampaignSetup& setup,
                     const PlacedVariant& variant, const MeshResult& mesh, const RunResult& result,
                     const std::string& setup_text);

/// The present state of a run that goes on: history, balance, pictures; replaces an earlier look.
/// @throw OutputError
void write_look(const std::filesystem::path& folder, const CampaignSetup& setup,
                const PlacedVariant& variant, const MeshResult& mesh, const RunResult& result);

/// @throw InputError when it is missing or not a balance file
RunFigures read_balance(const std::filesystem::path& file);

}  // namespace dunefield
