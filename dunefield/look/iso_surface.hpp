// Surfaces of equal value, from the same tetrahedra that streamlines go through: closed where the
// air goes on, open where the body or the tunnel cuts them.
#pragma once

#include <dunefield/look/flow_view.hpp>
#include <dunefield/look/scene.hpp>

namespace dunefield {

/// Of a half model both sides. Normals point to smaller values.
/// @param within only what lies in this box; empty: everywhere
Sheet iso_surface(const FlowView& view, const std::string& quantity, double level,
                  const Box& within = {});

/// The same of values per cell, on the meshed side alone.
Sheet iso_surface_of(const FlowView& view, const std::vector<double>& cells, double level,
                     const Box& within = {});

}  // namespace dunefield
