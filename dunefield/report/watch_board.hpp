// What a watched campaign has to tell, written by the one who runs it and read by pages, from any
// thread.
#pragma once

#include <chrono>
#include <map>
#include <memory>
#include <mutex>
#include <set>
#include <string>
#include <vector>

#include <dunefield/campaign/run_index.hpp>
#include <dunefield/campaign/search_task.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {

/// What is to be tried.
struct Wanted {
  std::string variant;
  double speed = 0;   ///< m/s
  Settings settings;  ///< numbers of the file that have another value
  bool operator==(const Wanted&) const = default;
};

/// One shape at one speed, as far as it has been run.
struct Try {
  int number = 0;
  Wanted wanted;
  bool kept = false;
  std::map<std::string, Figures> figures;                ///< by recipe
  std::shared_ptr<const Record> record;                  ///< of the first recipe
  std::map<std::filesystem::path, std::string> content;  ///< hashes of its surface files
  std::map<std::filesystem::path, std::filesystem::path>
      read_from;                                                  ///< of those: a copy, or itself
  std::map<std::filesystem::path, std::filesystem::path> copies;  ///< of them, once it is kept
  std::set<std::filesystem::path> of_vehicle;  ///< files of [vehicle], not of a variant
  std::string name() const;                    ///< "3: tapered tail at 90 km/h"
};

/// A number that a page may change.
struct WatchedKey {
  SearchKey key;
  std::string value;  ///< at present; empty: the file's
};

class WatchBoard {
 public:
  /// What stays the same while the campaign file does.
  void campaign(const std::string& name, const std::vector<std::string>& variants,
                const std::vector<double>& speeds, const std::vector<WatchedKey>& keys);
  void wanted(const Wanted& wanted);
  /// "meshing", "running", ... and a sentence.
  void phase(const std::string& phase, const std::string& message);
  void error(const std::string& text);  ///< empty: none
  /// A run begins: its history is empty.
  void begins(const std::string& recipe, int cells);
  void cells(int count);
  void iterated(const HistoryRow& row, double seconds_left);
  void tries(const std::vector<std::shared_ptr<Try>>& all, std::shared_ptr<Try> present,
             std::shared_ptr<Try> kept);
  /// Of the run that goes on or has ended, and the change from what is kept.
  void present(const Figures& figures);
  void runs(const std::vector<StoredRun>& all, const std::vector<std::string>& going_on);
  void kept_text(const std::string& toml);
  /// There is something else to look at.
  void view();
  /// The clock of "from saving a file to ..." starts, or a mark on it is set.
  void changed();
  void mark(const std::string& what);

  std::string state(long after) const;
  /// Whether a page has asked within the last seconds.
  bool is_read() const;

 private:
  std::string text() const;
  void touch() { ++version_; }

  using Clock = std::chrono::steady_clock;
  mutable std::mutex guard_;
  mutable Clock::time_point read_{};
  long version_ = 1, view_version_ = 0;
  std::string name_, phase_ = "reading", message_, error_, recipe_, kept_text_;
  std::vector<std::string> variants_, going_on_;
  std::vector<double> speeds_;
  std::vector<WatchedKey> keys_;
  Wanted wanted_;
  int cells_ = 0;
  double seconds_left_ = 0;
  std::vector<HistoryRow> history_;
  std::vector<std::shared_ptr<Try>> tries_;
  std::shared_ptr<Try> present_try_, kept_try_;
  std::unique_ptr<Figures> present_;
  std::vector<StoredRun> runs_;
  Clock::time_point changed_{};
  std::map<std::string, double> marks_;  ///< s since the change
};

}  // namespace dunefield
