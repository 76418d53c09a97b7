// The octree of a vehicle in its tunnel, refined as far as its sizes say.
#pragma once

#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/mesh/mesh_options.hpp>
#include <dunefield/mesh/octree/octree.hpp>
#include <dunefield/mesh/octree/solid_field.hpp>

namespace dunefield {

/// @throw InputError for options that contradict each other, the vehicle or the tunnel
void refuse_contradictions(const MeshOptions& options, const Surface& vehicle, const Box& tunnel);

/// Open edges closer to each other than this are one edge, which no gap of a vehicle is; m.
double joining_distance(const MeshOptions& options);

/// Leaf edge to which gaps may be refined, m; 0: not at all.
double gap_leaf(const MeshOptions& options);

/// The solid that the facets enclose, with plinths under standing parts and sheets as told.
/// @param vehicle must outlive it. @throw InputError for parts that do not exist
SolidField solid_of(const Surface& vehicle, const MeshOptions& options);

/// @throw InputError where that would need more memory than the machine has, Cancelled
Octree sized_octree(const Surface& vehicle, const Box& tunnel, const SolidField& solid,
                    const MeshOptions& options, const Progress& progress = {});

}  // namespace dunefield
