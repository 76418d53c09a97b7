// The files that a campaign is made of, watched for changes.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include <dunefield/campaign/campaign_file.hpp>

namespace dunefield {

/// Where a campaign's surfaces stand in it, so that others can be put in their places.
std::vector<std::filesystem::path*> surface_files(Campaign& campaign);

/// What tells a file from what it was: time of change and size; empty: not there.
std::string stamp_of(const std::filesystem::path& file);

/// Notices changes of files, once they have come to rest: programs write large ones in pieces.
class WatchedFiles {
 public:
  /// Watches these from now on; what is watched already keeps its stamp.
  void watch(const std::vector<std::filesystem::path>& files);
  /// Looks once. @return those that have changed and have not changed since the look before
  std::vector<std::filesystem::path> changed();

 private:
  struct Stamps {
    std::string settled, seen;
  };
  std::map<std::filesystem::path, Stamps> files_;
};

}  // namespace dunefield
