// Notes and warnings for the user: everything that was closed, dropped, assumed or looks unlikely.
#pragma once

#include <string>
#include <vector>

namespace dunefield {

struct Finding {
  enum class Level { note, warning };
  Level level = Level::note;
  std::string text;  ///< one plain sentence with its numbers and place
  /// Stays the same when the wording changes: "mesh.closed-gap" (docs/reference/messages.md);
  /// empty: it has none
  std::string id{};
};

class Findings {
 public:
  void note(std::string text, std::string id = {}) {
    list_.push_back({Finding::Level::note, std::move(text), std::move(id)});
  }
  void warn(std::string text, std::string id = {}) {
    list_.push_back({Finding::Level::warning, std::move(text), std::move(id)});
  }
  /// Puts a warning before all others.
  void warn_first(std::string text, std::string id = {}) {
    list_.insert(list_.begin(), {Finding::Level::warning, std::move(text), std::move(id)});
  }
  void append(const Findings& other) {
    list_.insert(list_.end(), other.list_.begin(), other.list_.end());
  }
  auto begin() const { return list_.begin(); }
  auto end() const { return list_.end(); }
  bool empty() const { return list_.empty(); }
  std::size_t size() const { return list_.size(); }

 private:
  std::vector<Finding> list_;
};

}  // namespace dunefield
