// Records that a page looks at: what it shows is asked for in the words of pictures, and comes as
// packed scenes.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {

/// A record on the page.
struct ExploredRun {
  std::shared_ptr<const Record> record;
  std::filesystem::path folder{};  ///< empty: in memory only
  std::string name{};              ///< "present"; stands before its variant
};

/// Thread-safe: several pages may ask at once, while the runs are exchanged.
class Explorer {
 public:
  static constexpr std::size_t most_runs = 4;

  /// @param folders of one to four runs. @throw InputError for other numbers and damaged records
  Explorer(const std::vector<std::filesystem::path>& folders, const Progress& progress = {});
  /// Of records in memory; none: they come with `show`.
  Explorer(const std::string& title, std::vector<ExploredRun> runs);
  ~Explorer();
  Explorer(const Explorer&) = delete;
  Explorer& operator=(const Explorer&) = delete;

  /// Exchanges all runs, four at most; answers that are being made are of those before. From one
  /// thread.
  void show(std::vector<ExploredRun> runs);
  /// s that all answers have taken so far.
  double seconds_answering() const;

  /// "Marram parcel van"
  std::string title() const;
  /// JSON: of each run its name, folder, quantities with units, bounds of vehicle and tunnel (m).
  std::string runs() const;
  /// The vehicles with their pressure, as ScenePack::bytes.
  std::string vehicles() const;
  /// {"run": 0, "kind": "slice", "words": "y = 0.2 m, Cp", "against": 1}: what such words of
  /// docs/guide/pictures.md show of a run, or of its change from another one, as ScenePack::bytes.
  /// Kinds are surface, slice, smoke, volume and cores. @throw InputError for what is wrong with it
  std::string look(const std::string& json) const;
  /// {"runs": [0, 1], "words": "section, y = 0"}: a chart as JSON. @throw InputError
  std::string chart(const std::string& json) const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
