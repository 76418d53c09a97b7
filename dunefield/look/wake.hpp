// The wake where a plane cuts it: how large it is and where its middle lies.
#pragma once

#include <dunefield/look/flow_view.hpp>

namespace dunefield {

struct WakeSection {
  double area = 0;  ///< m2 where total Cp lies below the level, of the whole vehicle
  Vec3 centre;      ///< of that area
};

/// @param below of total Cp: air that has lost more than that to the vehicle
WakeSection wake_section(const FlowView& view, const Plane& plane, double below = 0.5);

}  // namespace dunefield
