// An order of places in space that packs into trees of eight children a node.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

namespace dunefield {

using Place = std::array<float, 3>;

/// Halves the places at their median along the longest side again and again, with the cuts at
/// multiples of powers of eight: each run of 8^k items that starts at a multiple of 8^k is a
/// compact group (a packed k-d tree).
std::vector<std::int32_t> spatial_order(const std::vector<Place>& places);

}  // namespace dunefield
