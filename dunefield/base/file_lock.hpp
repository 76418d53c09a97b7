// A lock between processes that dies with the process that holds it.
#pragma once

#include <filesystem>

namespace dunefield {

/// Held from construction to destruction, if it could be had. The file stays where it is: who
/// removes it could take away one that another process has just locked.
class FileLock {
 public:
  /// @throw OutputError when the file cannot be made
  explicit FileLock(const std::filesystem::path& file);
  ~FileLock();
  FileLock(const FileLock&) = delete;
  FileLock& operator=(const FileLock&) = delete;
  /// False: another process, or another lock of this one, holds it.
  bool held() const { return held_; }

 private:
  int file_ = -1;
  bool held_ = false;
};

}  // namespace dunefield
