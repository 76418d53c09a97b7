// From a surface alone to a campaign: what cannot be asked is guessed, and told.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/campaign/campaign_file.hpp>

namespace dunefield {

/// What the user said; the rest is guessed.
struct GuessOptions {
  std::optional<std::string> unit{}, nose{}, up{};
  std::optional<double> road{};       ///< height of the road in the file, m at full size
  std::optional<bool> half{};         ///< none: half where both sides are alike
  std::vector<double> speeds = {25};  ///< m/s
  std::string recipe = "scout";
};

struct FirstGuess {
  Campaign campaign;
  GuessOptions said;                  ///< what the user, or the files, said
  std::string unit;                   ///< of the files' numbers
  std::vector<std::string> in_words;  ///< what was guessed and why, a line each
};

/// @throw InputError for files that cannot be read, hold nothing, or no vehicle: without thickness
/// or of a size that none has
FirstGuess first_guess(const std::vector<std::filesystem::path>& files,
                       const GuessOptions& options = {});

/// A campaign file with comments, for a file in `folder`; surface files are named from there.
std::string campaign_text(const FirstGuess& guess, const std::filesystem::path& folder);

}  // namespace dunefield
