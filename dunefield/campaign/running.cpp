#include <dunefield/campaign/running.hpp>

#include <algorithm>
#include <chrono>
#include <fstream>
#include <thread>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/run_store.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char running_ending[] = ".running", wanted_ending[] = ".look-wanted";
constexpr auto ask_again = std::chrono::milliseconds(50);

}  // namespace

Running::Running(const fs::path& folder, const RunSetup& setup, CampaignWatcher& watcher, bool root)
    : folder_(folder),
      readings_(setup.readings),
      reels_(folder, setup, root),
      watcher_(watcher),
      root_(root) {
  if (!root) return;
  std::error_code ignored;
  fs::remove(beside(folder, wanted_ending), ignored);
  std::ofstream(beside(folder, running_ending)) << folder.filename().string() << "\n";
}

Running::~Running() {
  std::error_code ignored;
  if (root_) fs::remove(beside(folder_, running_ending), ignored);
}

void Running::iterated(const HistoryRow& row, double seconds_left) {
  watcher_.iterated(row, seconds_left);
  frame_due_ = reels_.due(row);
}

bool Running::wants_look() {
  watcher_wants_ = watcher_.wants_look();
  asked_for_ = fs::exists(beside(folder_, wanted_ending));
  return watcher_wants_ || asked_for_ || frame_due_;
}

void Running::look(const Record& record) {
  if (frame_due_)
    for (const std::string& trouble : reels_.keep(record)) watcher_.warned(trouble);
  if (watcher_wants_) watcher_.look(record);
  if (!asked_for_) return;
  store_look(look_folder(folder_), record, readings_);
  std::error_code gone;
  fs::remove(beside(folder_, wanted_ending), gone);
}

fs::path look_folder(const fs::path& run_folder) { return run_folder.string() + ".look"; }

std::vector<fs::path> running_below(const fs::path& folder) {
  std::vector<fs::path> runs;
  std::error_code status;
  const std::string ending = running_ending;
  for (const auto& entry : fs::directory_iterator(folder, status)) {
    const std::string name = entry.path().filename().string();
    if (name.size() > ending.size() + 1 && name.ends_with(ending))
      runs.push_back(folder / name.substr(1, name.size() - 1 - ending.size()));
  }
  std::sort(runs.begin(), runs.end());
  return runs;
}

void ask_for_look(const fs::path& run_folder, double patience, const Progress& progress) {
  const fs::path wanted = beside(run_folder, wanted_ending);
  std::ofstream(wanted) << "\n";
  if (!fs::exists(wanted))
    throw OutputError("nothing can be written here", run_folder.parent_path().string(),
                      "check the folder's rights");
  const auto until = std::chrono::steady_clock::now() + std::chrono::duration<double>(patience);
  while (fs::exists(wanted)) {
    std::error_code ignored;
    if (std::chrono::steady_clock::now() > until || progress.stop()) {
      fs::remove(wanted, ignored);
      progress.check();
      throw InputError(
          "the run does not answer", run_folder.string(),
          "it may be meshing, or was killed; the same run command goes on from what was saved");
    }
    std::this_thread::sleep_for(ask_again);
  }
}

}  // namespace dunefield
