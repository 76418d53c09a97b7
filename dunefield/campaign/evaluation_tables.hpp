// What a campaign file says of how its results are looked at: comparison, figures, rounds.
#pragma once

#include <dunefield/campaign/campaign_file.hpp>
#include <dunefield/campaign/table.hpp>

namespace dunefield {

/// [compare], [[figure]] and [[round]] of the root table; the variants are known by then.
/// @throw InputError
void read_evaluation(Table& root, Campaign& campaign);

}  // namespace dunefield
