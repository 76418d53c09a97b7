// What is wanted of a watched campaign at present: by the page, and by the files as they are now.
// From any thread.
#pragma once

#include <filesystem>
#include <map>
#include <mutex>
#include <string>
#include <vector>

#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/report/watch_board.hpp>
#include <dunefield/report/watched_files.hpp>

namespace dunefield {

/// Files in the places of others.
using Replacements = std::map<std::filesystem::path, std::filesystem::path>;

class WatchDesk {
 public:
  explicit WatchDesk(WatchBoard& board) : board_(board) {}

  /// What can be wanted, as the campaign file has it now. @throw InputError without the variant
  void campaign(const Campaign& campaign);
  /// Variant and speed to begin with.
  void begin(const std::string& variant, double speed);
  Wanted wanted() const;
  Replacements replacements() const;
  /// Watches the campaign's files.
  void watch(const std::vector<std::filesystem::path>& files);
  /// The files that have changed since the last look; copies in their places are given up.
  std::vector<std::filesystem::path> changed_files();

  /// {"variant": .., "speed": .., "settings": {key: number}}: what is not named stays. JSON text.
  /// @return whether anything is other than before. @throw InputError
  bool want(const std::string& json);
  /// Back to a kept try: its numbers, and its shapes where the files have gone on since.
  void go_back(const Try& kept);

 private:
  void set(Wanted& wanted, const std::string& key, double value) const;
  void tell() const;

  WatchBoard& board_;
  mutable std::mutex guard_;
  Wanted wanted_;
  WatchedFiles files_;
  Replacements replacements_;
  std::string name_;
  std::vector<std::string> variants_;
  std::vector<double> speeds_;
  std::vector<WatchedKey> keys_;
};

/// @throw InputError when the campaign has no such variant
std::size_t variant_number(const Campaign& campaign, const std::string& name);

}  // namespace dunefield
