// The data of a picture over time: frames that are kept while a flow runs, and drawn as a film
// later, from another side and in another range if wanted. What all frames share is there once.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/look/film.hpp>
#include <dunefield/look/scene.hpp>

namespace dunefield {

/// Puts frames into a folder, which is made if need be and emptied if it holds another picture.
class ReelWriter {
 public:
  /// @param words that tell the picture from others. @throw OutputError
  ReelWriter(std::filesystem::path folder, std::string words);
  /// @param number of the frame, from 1: one that is there already is replaced
  /// @param time s. @throw OutputError
  void add(const Scene& scene, int number, double time) const;

 private:
  std::filesystem::path folder_;
  std::string words_;
};

/// Frames as they were kept, by number.
class Reel {
 public:
  /// @throw InputError when there are none, or they are damaged
  explicit Reel(const std::filesystem::path& folder);
  int frames() const { return static_cast<int>(files_.size()); }
  /// @param frame from 0. @throw InputError
  Scene scene(int frame) const;
  double time(int frame) const;

 private:
  std::filesystem::path folder_;
  std::vector<std::filesystem::path> files_;
};

/// The reels of a run by name, in its folder or, while it goes on, beside it.
std::vector<std::string> reels_of(const std::filesystem::path& reels_folder);

/// One range for each quantity and one frame for all, as wide as the widest.
/// @param change what is wanted otherwise: view, ranges, paper
void write_reel_film(const Reel& reel, const std::filesystem::path& file, double frames_per_second,
                     const std::function<void(Scene&)>& change, const Progress& progress = {});

}  // namespace dunefield
