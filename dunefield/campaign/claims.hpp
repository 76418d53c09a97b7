// Values that somebody claims or has measured, beside ours.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/derived.hpp>

namespace dunefield {

struct Claim {
  std::string name, variant;  ///< who says it, of what
  std::string figure = "CD";  ///< or any other formula
  double value = 0, half_interval = 0;
  double speed = 0;  ///< m/s; 0: at any
};

struct ClaimCompared {
  Claim claim;
  double speed = 0;  ///< of our run
  Settings settings;
  DerivedFigure ours;     ///< with what the mesh's position does to a single result
  Difference difference;  ///< ours less the claimed
  bool settled = false;   ///< else there is no verdict
};

/// A row for each claim and each comparison that has its variant at its speed; none where it was
/// not run. Tells nothing of errors that all runs share: the model's, the tunnel's.
std::vector<ClaimCompared> compare_claims(const std::vector<Claim>& claims,
                                          const std::vector<Comparison>& comparisons,
                                          const std::string& where);

}  // namespace dunefield
