// Finer air about wheels.
#pragma once

#include <vector>

#include <dunefield/geometry/wheels/wheel.hpp>
#include <dunefield/mesh/mesh_options.hpp>

namespace dunefield {

/// Boxes about the wheels that have fewer than 24 surface leaves across, in leaves half as large:
/// on coarser ones the jets from their houses wander for hundreds of iterations, and drag with them
/// (docs/performance.md, "How soon CD settles").
/// @param surface_size leaf edge at the surface, m
std::vector<RefinedBox> boxes_about(const std::vector<Wheel>& wheels, double surface_size);

}  // namespace dunefield
