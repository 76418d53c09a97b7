// Files that appear whole or not at all, and stay after a power cut: written beside their place
// under a name of their own, synced, renamed, and the folder synced.
#pragma once

#include <filesystem>
#include <fstream>
#include <system_error>

namespace dunefield {

/// Ending of what is being written; what a killed process leaves has it, too, and is never read.
inline constexpr char being_written[] = ".being-written";

class FreshFile {
 public:
  /// What is a link is followed; what is no regular file (a pipe, a terminal) is written as it is.
  /// @throw OutputError when it cannot be made
  explicit FreshFile(std::filesystem::path file);
  /// Removes what was not put in place.
  ~FreshFile();
  FreshFile(const FreshFile&) = delete;
  FreshFile& operator=(const FreshFile&) = delete;
  std::ofstream& out() { return out_; }
  /// Where the bytes are until `place`; a library may write them itself once `out` is closed.
  const std::filesystem::path& path() const { return fresh_; }
  /// Closes, syncs and renames. @throw OutputError
  void place();

 private:
  std::filesystem::path file_, fresh_;
  std::ofstream out_;
  bool placed_ = false;
};

/// A name beside `file` that no other process or thread takes.
std::filesystem::path name_beside(const std::filesystem::path& file);

/// Waits until a file's, or a folder's, content is on the disk. Folders of file systems that
/// cannot sync them are taken as synced.
std::error_code synced(const std::filesystem::path& file_or_folder);

/// Renames a file or folder and syncs the folder that it stands in.
std::error_code put_in_place(const std::filesystem::path& fresh,
                             const std::filesystem::path& place);

/// Takes the place of what is there, which then is at `fresh`: in one step where the file system
/// can (renameat2), else in two.
std::error_code exchanged(const std::filesystem::path& fresh, const std::filesystem::path& place);

}  // namespace dunefield
