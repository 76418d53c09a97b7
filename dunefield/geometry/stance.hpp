// How a surface stands in its file: unit, which axis goes across, which way are up and the nose. A
// guess, with its reasons.
#pragma once

#include <string>
#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct Stance {
  std::string unit = "m";      ///< likely length unit
  std::string nose = "-x";     ///< likely direction of the nose in the file
  std::string up = "+z";       ///< likely direction of the roof in the file
  bool nose_is_clear = false;  ///< the signs agree
  std::vector<std::string> reasons;
};

/// The unit that makes the longest side that of a road vehicle or a model of one.
std::string likely_unit(double longest_side);

/// Guesses from symmetry (across), length, wheels (up) and outline (nose).
Stance guess_stance(const Surface& surface);

/// The surface turned so that the nose points to -x and up is +z. @param nose, up like "-x", "+z"
void turn_upright(Surface& surface, const std::string& nose, const std::string& up);

}  // namespace dunefield
