// A wing across the vehicle from a section and a few lengths.
#pragma once

#include <optional>
#include <string>

#include <dunefield/geometry/files/aerofoil.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct EndPlates {
  double length = 0, height = 0, thickness = 0.005;  ///< m
  double ahead = 0;                                  ///< of the leading edge, m
  double above = 0;  ///< of the chord line at the tip, m; the rest of the height lies below
};

/// Lengths in metres, angles in radians. The wing lies across, its leading edge forward (-x),
/// symmetric about `leading_edge.y`.
struct WingShape {
  std::string part = "wing";
  Aerofoil section;
  Vec3 leading_edge;  ///< at the middle
  double span = 1;
  double root_chord = 0.3, tip_chord = 0.3;
  /// Positive: nose down, trailing edge up, for downforce with the camber turned over
  double incidence = 0;
  bool turned_over = true;  ///< camber downward: makes downforce
  double sweep = 0;         ///< of the leading edge, positive rearward
  double dihedral = 0;      ///< positive: tips higher
  std::optional<EndPlates> end_plates;
};

/// A closed surface, one part; its end plates belong to it. @throw InputError for lengths that are
/// not above zero
Surface make_wing(const WingShape& shape);

}  // namespace dunefield
