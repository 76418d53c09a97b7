// Limbs and bodies: tapered capsules blended smoothly into one closed skin.
#pragma once

#include <string>
#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// All points within a radius, changing evenly, of the way from one end to the other.
struct Capsule {
  Vec3 from, to;
  double from_radius = 0.1, to_radius = 0.1;
};

/// The smooth union of the capsules' distance fields (polynomial blend over `blend`; Quilez 2013),
/// as a surface by surface nets (Gibson 1998) on a grid of `cell`. @throw InputError for sizes that
/// are not above zero or a grid over 100 million cells
Surface blend_capsules(const std::string& part, const std::vector<Capsule>& capsules, double blend,
                       double cell);

}  // namespace dunefield
