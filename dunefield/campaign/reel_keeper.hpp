// While a flow in time runs, the data of the campaign's pictures is kept from time to time.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/look/picture_request.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {

/// Where the reels of a run lie: in its folder, or beside it while it goes on.
std::filesystem::path reels_folder(const std::filesystem::path& run_folder);

class ReelKeeper {
 public:
  /// Keeps nothing where [time] has no picture_every. Frames of the same flow from before stay, in
  /// the run's folder or beside it; those of another one are dropped.
  /// @param root only the root keeps anything
  ReelKeeper(const std::filesystem::path& run_folder, const RunSetup& setup, bool root);

  /// After this step: whether a frame's time has come in it.
  bool due(const HistoryRow& row);
  /// @return what could not be kept, and why; said once for each picture
  std::vector<std::string> keep(const Record& record);
  /// Into the finished run's folder. @throw OutputError
  void put_in_place() const;

 private:
  struct Kept {
    PictureRequest request;
    std::string words;
    bool told = false;
  };
  std::filesystem::path run_folder_, folder_;
  std::string flow_;             ///< hash
  double every_ = 0, step_ = 0;  ///< s; 0: never
  int frame_ = 0;                ///< of the present step, from 1
  double time_ = 0;
  std::vector<Kept> pictures_;
};

}  // namespace dunefield
