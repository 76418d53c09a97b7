// What a variant does to the vehicle: parts added, removed, moved, replaced, openings closed, ride
// height changed.
#pragma once

#include <dunefield/base/findings.hpp>
#include <dunefield/campaign/campaign_file.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Reads files of the campaign's unit and turns them so that the nose points to -x and up is +z; no
/// shift.
Surface read_oriented(const Campaign& campaign, const std::vector<std::filesystem::path>& files);

/// The vehicle with the shapes all variants have.
Surface base_surface(const Campaign& campaign);

/// A variant's surface before it is placed. @throw InputError for parts or shapes that do not exist
Surface variant_surface(const Campaign& campaign, const Campaign::Variant& variant,
                        const Surface& base, Findings& findings);

/// Raises and tilts what does not turn; wheels stay where they are. @param surface placed: origin
/// at mid-wheelbase
void apply_ride(Surface& surface, const Ride& ride, const std::vector<Wheel>& wheels,
                const std::string& where);

}  // namespace dunefield
