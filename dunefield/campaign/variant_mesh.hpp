// The mesh of a variant: made from its surface, or read from the file that the campaign names.
#pragma once

#include <dunefield/campaign/vehicle_setup.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {

/// A mesh from elsewhere must have an inflow, an outflow, a centre plane for half models, and lie
/// where the vehicle lies. Boundaries that are no part of the vehicle, and parts without a
/// boundary, are listed.
/// @throw InputError for a file that does not fit, MeshError for a mesh that is not sound,
/// Cancelled
MeshResult mesh_of_variant(const CampaignSetup& setup, const PlacedVariant& variant,
                           const Progress& progress = {});

}  // namespace dunefield
