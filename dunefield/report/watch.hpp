// A campaign followed while it is designed: the present shape is run coarsely at once, then as the
// file says; when a file changes the flow goes on from what it was. What a page shows of it is told
// as JSON; what a page asks for is taken as JSON.
#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include <dunefield/base/progress.hpp>
#include <dunefield/report/explorer.hpp>

namespace dunefield {

struct WatchOptions {
  std::filesystem::path runs{};   ///< folder of the campaign's runs; empty: beside its file
  std::string variant{};          ///< that is tried first; empty: the baseline
  std::string recipe = "sketch";  ///< of tries; empty: only the file's own
  bool finer = true;              ///< a try that is settled is then run as the file says
  int threads = 0;                ///< 0: one for each core
  double look_every = 1;          ///< s between looks at a run that goes on, at least
};

class Watch {
 public:
  /// Reads the campaign. @throw InputError for one that cannot be begun with
  Watch(const std::filesystem::path& file, const WatchOptions& options);
  ~Watch();
  Watch(const Watch&) = delete;
  Watch& operator=(const Watch&) = delete;

  /// Runs and follows until it is cancelled. What is wrong with a file that has changed is told to
  /// the page, and the last good one goes on. @throw OutputError
  void work(const Progress& progress);

  /// What there is to tell, if it is newer than `after`; else nothing. From any thread.
  std::string state(long after) const;
  /// The present run as it goes on and, where there is another, the one that is kept.
  const Explorer& explorer() const;
  /// What a page asks for: {"want": {"variant": .., "speed": .., "settings": {..}}},
  /// {"keep": true}, {"discard": true}. @throw InputError for what cannot be done
  void ask(const std::string& json);

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
