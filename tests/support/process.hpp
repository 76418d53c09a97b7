// Runs a program as a user would and keeps what it prints.
#pragma once

#include <filesystem>
#include <string>

namespace dunefield::test {

struct ProcessResult {
  int exit_code = -1;
  std::string out, err;
};

/// @param command as typed in a shell
ProcessResult shell(const std::string& command);
/// The tool with these arguments.
ProcessResult tool(const std::string& arguments);

/// `dunefield run` without the seconds that its report takes.
ProcessResult tool_run(const std::string& arguments);

/// The tool in the background, killed with the object.
class BackgroundTool {
 public:
  /// @param folder for what it prints
  BackgroundTool(const std::string& arguments, const std::filesystem::path& folder);
  ~BackgroundTool();
  BackgroundTool(const BackgroundTool&) = delete;
  BackgroundTool& operator=(const BackgroundTool&) = delete;
  int number() const { return number_; }  ///< of the process
  /// What it has printed, once this word is among it; waits at most ten seconds.
  std::string told(const std::string& word) const;

 private:
  std::filesystem::path out_;
  int number_ = 0;
};

/// A fresh folder that is removed with the object.
class TemporaryFolder {
 public:
  TemporaryFolder();
  ~TemporaryFolder();
  std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
  const std::filesystem::path& path() const { return path_; }

 private:
  std::filesystem::path path_;
};

std::string read_text(const std::filesystem::path& file);
void write_text(const std::filesystem::path& file, const std::string& text);

}  // namespace dunefield::test
