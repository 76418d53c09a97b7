// The tables of a campaign file that say what flows: tunnel and belts, air, the flow's settings,
// time.
#pragma once

#include <optional>
#include <vector>

#include <dunefield/campaign/campaign_file.hpp>
#include <dunefield/campaign/table.hpp>

namespace dunefield {

// All throw InputError naming file, line and key.

/// [[belt]]
std::vector<Belt> read_belts(Table& root);
/// [tunnel]; belts come before it
void read_tunnel(Table t, Campaign& c);
/// [time], if there is one
std::optional<TimeChoice> read_time(Table& root);
/// [air]: density and viscosity, or temperature and pressure that they follow from
void read_air(Table t, Campaign& c);
/// [flow]; air comes before it
void read_flow(Table t, Campaign& c);

}  // namespace dunefield
