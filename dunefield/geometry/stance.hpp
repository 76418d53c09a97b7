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

/// The unit in which these sides, in numbers of the file, are those of a road vehicle or a model of
/// one: the longest near 4.5 m, the shortest under 4 m.
std::string likely_unit(const Vec3& sides);

/// Guesses from symmetry (across), length, wheels (up) and outline (nose).
/// @param unit where it is known; empty: guessed
Stance guess_stance(const Surface& surface, const std::string& unit = "");

/// The surface turned so that the nose points to -x and up is +z. @param nose, up like "-x", "+z"
void turn_upright(Surface& surface, const std::string& nose, const std::string& up);

}  // namespace dunefield
