#include "process.hpp"

#include <chrono>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <sstream>
#include <thread>

#include <sys/wait.h>
#include <unistd.h>

namespace dunefield::test {

TemporaryFolder::TemporaryFolder() {
  std::string pattern = (std::filesystem::temp_directory_path() / "dunefield-test-XXXXXX").string();
  path_ = mkdtemp(pattern.data());
}
TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  std::filesystem::remove_all(path_, ignored);
}

std::string read_text(const std::filesystem::path& file) {
  std::ifstream in(file, std::ios::binary);
  std::stringstream text;
  text << in.rdbuf();
  return text.str();
}

void write_text(const std::filesystem::path& file, const std::string& text) {
  std::ofstream(file, std::ios::binary) << text;
}

ProcessResult shell(const std::string& command) {
  const TemporaryFolder folder;
  const int status = std::system((command + " >" + (folder / "out").string() + " 2>" +
                                  (folder / "err").string() + " </dev/null")
                                     .c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status),
          read_text(folder / "out"), read_text(folder / "err")};
}

ProcessResult tool(const std::string& arguments) {
  return shell(std::string(DUNEFIELD_TOOL) + " " + arguments);
}

ProcessResult tool_run(const std::string& arguments) {
  return tool("run --no-report " + arguments);
}

BackgroundTool::BackgroundTool(const std::string& arguments, const std::filesystem::path& folder)
    : out_(folder / "background.out") {
  const std::string command = std::string(DUNEFIELD_TOOL) + " " + arguments + " >" + out_.string() +
                              " 2>&1 </dev/null & echo $! >" + out_.string() + ".number";
  if (std::system(command.c_str()) == 0)
    number_ = std::atoi(read_text(out_.string() + ".number").c_str());
}
BackgroundTool::~BackgroundTool() {
  if (number_ > 0) kill(number_, SIGKILL);
}
std::string BackgroundTool::told(const std::string& word) const {
  std::string text;
  for (int i = 0; i < 100 && text.find(word) == std::string::npos; ++i) {
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
    text = read_text(out_);
  }
  return text;
}

}  // namespace dunefield::test
