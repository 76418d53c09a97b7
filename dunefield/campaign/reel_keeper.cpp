#include <dunefield/campaign/reel_keeper.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/base/slug.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/look/reel.hpp>
#include <dunefield/run/hashes.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char beside_ending[] = ".reels", folder_name[] = "reels", flow_file[] = "flow";

/// The picture in one text, so that one that was changed does not go on from another's frames.
std::string words_of(const WantedPicture& p) {
  std::string words;
  for (const Setting& s : p.words) words += s.key + " = " + s.value + "\n";
  return words;
}

/// Whose flow's frames a folder holds: its hash.
std::string flow_of(const fs::path& folder) {
  std::error_code status;
  const fs::path file = folder / flow_file;
  return fs::exists(file, status) ? read_text(file) : "";
}

}  // namespace

fs::path reels_folder(const fs::path& run_folder) {
  const fs::path going_on = beside(run_folder, beside_ending), own = run_folder / folder_name;
  std::error_code status;
  return fs::exists(going_on, status) ? going_on : own;
}

ReelKeeper::ReelKeeper(const fs::path& run_folder, const RunSetup& setup, bool root)
    : run_folder_(run_folder), folder_(beside(run_folder, beside_ending)) {
  if (!root || !setup.time) return;
  flow_ = hashes_of(setup).flow, step_ = setup.time_step();
  std::error_code ignored;
  if (flow_of(folder_) != flow_) fs::remove_all(folder_, ignored);
  const fs::path finished = run_folder / folder_name;  // of a run that goes on to a later time
  if (!fs::exists(folder_) && flow_of(finished) == flow_)
    fs::copy(finished, folder_, fs::copy_options::recursive, ignored);
  if (!setup.time->picture_every) return;
  every_ = *setup.time->picture_every;
  for (const WantedPicture& p : setup.readings.pictures)
    if (const PictureRequest r = request_from(p); r.chart.empty() && r.series.empty())
      pictures_.push_back({r, words_of(p)});
}

bool ReelKeeper::due(const HistoryRow& row) {
  if (!(every_ > 0) || !(row.time > 0)) return false;
  constexpr double rounding = 1e-6;
  const auto frames_until = [&](double time) { return static_cast<int>(time / every_ + rounding); };
  frame_ = frames_until(row.time), time_ = row.time;
  return frame_ > frames_until(row.time - step_);
}

std::vector<std::string> ReelKeeper::keep(const Record& record) {
  std::vector<std::string> troubles;
  check_writable(folder_);
  write_text(folder_ / flow_file, flow_);
  const auto view = std::make_shared<const FlowView>(record);
  for (Kept& p : pictures_) try {
      const Scene scene = picture_of(view, p.request).scene();
      ReelWriter(folder_ / slug(p.request.name, "picture"), p.words).add(scene, frame_, time_);
    } catch (const InputError& e) {
      if (!p.told)
        troubles.push_back(fmt::format("the picture '{}' was not kept at {:.4g} s: {}",
                                       p.request.name, time_, e.what()));
      p.told = true;
    }
  return troubles;
}

void ReelKeeper::put_in_place() const {
  std::error_code status;
  if (!fs::exists(folder_, status)) return;
  fs::remove_all(run_folder_ / folder_name, status);
  if (dunefield::put_in_place(folder_, run_folder_ / folder_name))
    throw OutputError("the kept pictures cannot be put in place", run_folder_.string(),
                      "they are in " + folder_.string());
}

}  // namespace dunefield
