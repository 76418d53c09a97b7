// Progress and cancellation, handed to everything that may take over a second.
#pragma once

#include <functional>
#include <string>

#include <dunefield/base/error.hpp>

namespace dunefield {

struct Progress {
  /// Called with the stage and the share done (0 to 1).
  std::function<void(const std::string& stage, double share)> report = [](const std::string&,
                                                                          double) {};
  /// Asked often; true stops the work at the next safe point.
  std::function<bool()> cancelled = [] { return false; };

  void operator()(const std::string& stage, double share) const { report(stage, share); }
  bool stop() const { return cancelled(); }
  /// Throws Cancelled if the user asked to stop.
  void check() const {
    if (stop()) throw Cancelled();
  }
};

}  // namespace dunefield
