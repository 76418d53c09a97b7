// What a search is asked for.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/derived.hpp>

namespace dunefield {

/// A key of the campaign file, and the range that it may have.
struct SearchKey {
  std::string key;
  double from = 0, to = 1;  ///< in its unit
  std::string unit;
  /// The value as the file would have it, at a share of the range, to four digits of the range
  Setting at(double share) const;
};

struct SearchLimit {
  Formula figure;
  bool most = true;  ///< else at least
  double value = 0;
};

struct SearchTask {
  std::string variant;
  Formula goal;
  bool most = false;  ///< else the least
  int runs = 30;      ///< at most
  std::vector<SearchKey> keys;
  std::vector<SearchLimit> limits;
};

}  // namespace dunefield
