// Gradients as what they are, linear in the cells' values: weights for those who need the
// transpose.
#pragma once

#include <vector>

#include <dunefield/base/vec.hpp>

namespace dunefield {

/// The gradient of a quantity q in the two cells of a face gets (q_above - q_below) times these. On
/// a boundary face the cell's gradient gets the difference of the boundary's value (where the
/// quantity has one: Gradients) from the cell's, times `boundary`; zero where it has none.
struct GradientWeights {
  std::vector<Vec3> below, above;  ///< per interior face, 1/m
  std::vector<Vec3> boundary;      ///< per boundary face, 1/m
};

}  // namespace dunefield
