// What finer and finer meshes tend to (Richardson 1911, with the observed order as Celik et al.
// 2008 find it).
#pragma once

#include <string>
#include <vector>

#include <dunefield/record/record.hpp>

namespace dunefield {

/// A figure on one mesh.
struct OnMesh {
  double cells = 0, value = 0, half_interval = 0;
};

struct Extrapolated {
  double value = 0, band = 0;  ///< the limit, and half of the width to expect it in
  double order = 0;            ///< observed; 0: none, the values do not come nearer to each other
  bool usable_order = false;   ///< from 0.5 to 2.5; else the value is that of the finest mesh and
                               ///< the band 1.5 times the range of all
};

/// @param meshes three at least, from coarse to fine; the last three count. The band holds the
/// values' own half intervals. @throw InputError for fewer, or cells that do not rise by a tenth
Extrapolated extrapolated(const std::vector<OnMesh>& meshes);

}  // namespace dunefield
