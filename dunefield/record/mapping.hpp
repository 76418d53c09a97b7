// Fields of one mesh on another: a start for a similar flow.
#pragma once

#include <dunefield/flow/fields.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// Each cell of `to` gets a mean of the cells of `from` around its centre, weighted by 1 /
/// distance^2, so that nothing new appears; where `from` has no air, the nearest it has. @param
/// fields of all cells of `from`, as FlowSolver::gather gives them
Fields mapped(const VolumeMesh& from, const Fields& fields, const VolumeMesh& to);

}  // namespace dunefield
