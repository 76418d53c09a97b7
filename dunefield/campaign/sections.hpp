// A campaign on a section: the vehicle becomes what a lengthwise plane cuts of it.
#pragma once

#include <dunefield/campaign/campaign_file.hpp>

namespace dunefield {

/// [section], after all other tables: what it means for tunnel, wheels and placement.
/// @throw InputError for what has no meaning in two dimensions
void read_section(Table& root, Campaign& campaign);

/// The plane's y in the files, at the model's size, m.
double section_plane(const Campaign& campaign);

/// The shift that puts the quarter of the section's length at the origin.
Vec3 to_quarter_chord(const Surface& upright, double y);

/// The surface becomes a slab of the section's outline, a metre deep about y = 0, at its clearance.
/// @param y of the plane in the vehicle's axes, m
void cut_to_section(Vehicle& vehicle, const Campaign& campaign, double y, Findings& findings);

/// Lengths count in chords; the area is that of a metre of span.
CommonFrame frame_of_section(const Campaign& campaign, const std::vector<Vehicle>& vehicles);

}  // namespace dunefield
