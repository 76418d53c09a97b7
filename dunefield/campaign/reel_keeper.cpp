#include <dunefield/campaign/reel_keeper.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/slug.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/look/reel.hpp>
#include <dunefield/run/hashes.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char beside_ending[] = ".reels", folder_name[] = "reels";

/// The picture in one text, so that one that was changed does not go on from another's frames.
std::string words_of(const WantedPicture& p) {
  std::string words;
  for (const Setting& s : p.words) words += s.key + " = " + s.value + "\n";
  return words;
}

}  // namespace

fs::path reels_folder(const fs::path& run_folder) {
  const fs::path going_on = beside(run_folder, beside_ending), own = run_folder / folder_name;
  std::error_code status;
  return fs::exists(going_on, status) ? going_on : own;
}

ReelKeeper::ReelKeeper(const fs::path& run_folder, const RunSetup& setup)
    : run_folder_(run_folder), folder_(beside(run_folder, beside_ending)) {
  if (!setup.time || !setup.time->picture_every) return;
  every_ = *setup.time->picture_every, flow_ = hashes_of(setup).flow;
  for (const WantedPicture& p : setup.readings.pictures)
    if (const PictureRequest r = request_from(p); r.chart.empty() && r.series.empty())
      pictures_.push_back({r, words_of(p)});
  std::error_code ignored;  // of a run that goes on to a later time
  if (!fs::exists(folder_) && fs::exists(run_folder / folder_name))
    fs::copy(run_folder / folder_name, folder_, fs::copy_options::recursive, ignored);
}

bool ReelKeeper::due(const HistoryRow& row) {
  if (!(every_ > 0) || !(row.time > 0)) return false;
  constexpr double rounding = 1e-6;
  const int now = static_cast<int>(row.time / every_ + rounding);
  if (now <= frame_) return false;
  frame_ = now, time_ = row.time;
  return true;
}

std::vector<std::string> ReelKeeper::keep(const Record& record) {
  std::vector<std::string> troubles;
  const auto view = std::make_shared<const FlowView>(record);
  for (Kept& p : pictures_) try {
      const Scene scene = picture_of(view, p.request).scene();
      ReelWriter(folder_ / slug(p.request.name, "picture"), p.words + flow_)
          .add(scene, frame_, time_);
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
  fs::rename(folder_, run_folder_ / folder_name, status);
  if (status)
    throw OutputError("the kept pictures cannot be put in place", run_folder_.string(),
                      "they are in " + folder_.string());
}

}  // namespace dunefield
