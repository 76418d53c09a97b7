// What a campaign concludes of each variant, over all conditions it shares with the baseline.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/comparison.hpp>

namespace dunefield {

/// Drag against the baseline at one condition, in percent of the baseline's.
struct ConditionVerdict {
  double speed = 0;
  Settings settings;
  Difference drag;
  Verdict verdict = Verdict::within_noise;
};

struct VariantVerdict {
  std::string variant;
  std::vector<ConditionVerdict> at;  ///< conditions with a verdict
  int without = 0;                   ///< conditions without one
  /// Mean over `at`, percent of the baseline's drag. Histories count as independent; the mesh is
  /// the same at all conditions, so that its part does not shrink (docs/theory/method.md)
  Difference drag;
  Verdict verdict = Verdict::not_settled;  ///< on the mean
  std::string sentence;  ///< "Tapered tail: 13.8 ± 1.9 % less drag (mean of 60, 90, 120 km/h)."
};

/// Largest change of drag first; variants without a verdict last. Empty without a baseline.
/// @param runs as for `compare`
std::vector<VariantVerdict> verdicts(const std::vector<Figures>& runs, const std::string& baseline,
                                     const Wants& wants, const DisplayUnits& units = {});

}  // namespace dunefield
