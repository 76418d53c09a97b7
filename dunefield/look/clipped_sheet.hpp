// The part of a sheet that lies in a box.
#pragma once

#include <dunefield/look/scene.hpp>

namespace dunefield {

/// Triangles at the border are cut exactly; values and normals go along. `flow` is not kept.
Sheet clipped_to(const Sheet& sheet, const Box& box);

}  // namespace dunefield
