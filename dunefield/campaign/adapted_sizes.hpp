// The sizes of a campaign's adapted meshes, and the sketch that they come from.
#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include <dunefield/run/adaptation.hpp>

namespace dunefield {

/// Runs the sketch once; its record stays in the folder of the runs, hidden, for the next time.
class AdaptedSizes {
 public:
  explicit AdaptedSizes(std::filesystem::path runs) : runs_(std::move(runs)) {}

  /// @param setup with `adaptation`. @throw as `run_sketch` and `adapted_sizes`
  std::shared_ptr<const SizeField> of(const RunSetup& setup, int threads, const Progress& progress);

 private:
  Record sketch(const RunSetup& setup, int threads, const Progress& progress) const;

  std::filesystem::path runs_;
  std::string origin_;
  std::shared_ptr<const SizeField> last_;
};

/// Where the sketch is kept.
std::filesystem::path sketch_folder(const std::filesystem::path& runs);

}  // namespace dunefield
