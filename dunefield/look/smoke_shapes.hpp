// What streamlines are drawn as.
#pragma once

#include <dunefield/look/picture.hpp>

namespace dunefield {

/// Lines and tubes as they are; arrows with heads; beads as pieces that lie evenly in time.
/// @param values of each line's points, or none
Bundle smoke_bundle(const SmokeLook& look, const std::vector<Streamline>& lines,
                    const std::vector<std::vector<double>>& values, double usual_radius);

/// Bands that turn with the flow: by half the vorticity along the line, from the level.
/// @param turning rad/s at each line's points
Sheet smoke_ribbons(const SmokeLook& look, const std::vector<Streamline>& lines,
                    const std::vector<std::vector<double>>& values,
                    const std::vector<std::vector<double>>& turning, double half_width);

/// Heads for strokes that end in an arrow.
void add_heads(Bundle& bundle, double length, const Vec3& towards_eye);

}  // namespace dunefield
