// Looks for the least of a figure whose runs are dear and not exact, within limits: a space-filling
// start, then where a surrogate expects the largest gain (Jones, Schonlau and Welch 1998).
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace dunefield {

/// A value with the standard deviation of its noise.
struct Noisy {
  double value = 0, deviation = 0;
};

/// Asks for points, each variable from 0 to 1, and is told what came out. The same answers lead to
/// the same questions.
class Search {
 public:
  struct Tried {
    std::vector<double> point;
    bool failed = false;  ///< could not be run; the rest is empty then
    Noisy goal;
    std::vector<Noisy> limits;  ///< kept where not above zero
  };
  /// @param runs at most
  Search(std::size_t variables, std::size_t limits, int runs);

  /// Where to run next; none when it is done, and why() then says what for.
  std::optional<std::vector<double>> next();
  void tell(Tried tried) { tried_.push_back(std::move(tried)); }

  struct Best {
    std::size_t run = 0;              ///< of the tried
    double value = 0, deviation = 0;  ///< of the surrogate there: all runs speak in it
    bool within_limits = false;       ///< likelier than not
  };
  /// The least goal among the runs that keep the limits by their own result, and likely by all
  /// runs; without any of them the run that is likeliest to.
  std::optional<Best> best() const;
  const std::vector<Tried>& tried() const { return tried_; }
  const std::string& why() const { return why_; }

 private:
  std::size_t succeeded() const;
  std::size_t variables_, limits_;
  int runs_;
  int small_gains_ = 0;
  std::vector<Tried> tried_;
  std::string why_;
};

}  // namespace dunefield
