// What is wrong with a surface, how much and where: for a table, a picture, a decision to mend.
#pragma once

#include <dunefield/base/findings.hpp>
#include <dunefield/base/progress.hpp>
#include <dunefield/geometry/health/symmetry.hpp>
#include <dunefield/geometry/loops.hpp>
#include <dunefield/geometry/query/local_thickness.hpp>
#include <dunefield/geometry/stance.hpp>
#include <dunefield/geometry/surface.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>

namespace dunefield {

/// A piece so small that it is likely to be a leftover.
struct StrayBit {
  Vec3 centre;
  double size = 0;  ///< diagonal of its box, m
  std::size_t triangles = 0;
  std::string part;
};

struct HealthReport {
  int pieces = 0;
  std::size_t open_edges = 0;
  std::vector<EdgeLoop> loops;  ///< longest first
  std::size_t non_manifold_edges = 0;
  std::vector<Vec3> non_manifold_places;
  std::size_t doubled_facets = 0, flipped_facets = 0, sheet_facets = 0;
  std::size_t slivers = 0;  ///< facets whose height is less than a hundredth of their longest side
  std::vector<Vec3> sliver_places;
  std::vector<StrayBit> stray_bits;  ///< smallest first
  std::size_t crossings_in_a_piece = 0, crossings_between_pieces = 0;
  std::vector<Vec3> crossing_places;
  LocalWidths widths;
  Asymmetry across;     ///< of the two sides
  bool closed = false;  ///< every shell is
  std::vector<Vec3> flipped_places;
};

/// @param surface in metres, nose towards -x, up +z
HealthReport check_health(const Surface& surface, const Progress& progress = {});

/// The report's findings as sentences, worst first; empty if all is well.
Findings findings_of(const HealthReport& report, const Surface& surface);

}  // namespace dunefield
