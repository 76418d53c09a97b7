// What a variant does to the vehicle: parts added, removed, moved, replaced, openings closed, ride
// height changed.
#pragma once

#include <dunefield/base/findings.hpp>
#include <dunefield/campaign/campaign_file.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// The vehicle with the shapes all variants have.
Surface base_surface(const Campaign& campaign);

/// A variant's surface before it is placed. @throw InputError for parts or shapes that do not exist
Surface variant_surface(const Campaign& campaign, const Campaign::Variant& variant,
                        const Surface& base, Findings& findings);

}  // namespace dunefield
