// A lock between processes that dies with the process that holds it.
#pragma once

#include <filesystem>
#include <string>

namespace dunefield {

/// Held from construction to destruction, if it could be had. The file stays where it is: who
/// removes it could take away one that another process has just locked. It says who holds it.
class FileLock {
 public:
  /// @throw OutputError when the file cannot be made, or this file system keeps no locks
  explicit FileLock(const std::filesystem::path& file);
  ~FileLock();
  FileLock(const FileLock&) = delete;
  FileLock& operator=(const FileLock&) = delete;
  /// False: another process, or another lock of this one, holds it.
  bool held() const { return held_; }
  /// Who holds it, if another does: "process 4711 on anvil since 2026-11-02 14:05"; empty: not
  /// known
  const std::string& holder() const { return holder_; }

 private:
  int file_ = -1;
  bool held_ = false;
  std::string holder_;
};

}  // namespace dunefield
