// A mesh that follows a displacement of its surface, keeping its topology and its layers.
#pragma once

#include <dunefield/base/progress.hpp>
#include <dunefield/geometry/surface.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {

/// Whether two surfaces have the same facets in the same parts, and differ in places alone.
bool same_facets(const Surface& a, const Surface& b);

/// Walls move as the facets next to them, tunnel walls stay, points on the road and on the centre
/// plane stay on them. The points between follow a discrete harmonic displacement on the mesh's
/// edges, weighted with one over their length squared: what is small, as next to walls, keeps its
/// shape, and large cells take the strain (after Löhner and Yang 1996).
/// @param from the surface that the mesh was made for; `to` has the same facets
/// @throw MeshError where the mesh cannot follow: parts that touch move apart, or cells would
/// become bad, with the share of the displacement that they bear; Cancelled
MeshResult morphed(const MeshResult& mesh, const Surface& from, const Surface& to,
                   const Progress& progress = {});

}  // namespace dunefield
