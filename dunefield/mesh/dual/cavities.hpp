// Cavities of a vehicle that the air reaches only through narrow openings: a cabin, a boot or an
// engine bay behind gaps of a dirty surface.
#pragma once

#include <vector>

#include <dunefield/base/members.hpp>
#include <dunefield/mesh/dual/dual_grid.hpp>

namespace dunefield {

struct Cavity {
  Vec3 place;          ///< its middle, m
  double volume = 0;   ///< m3
  double opening = 0;  ///< width of the widest way in, m
  Vec3 opening_place;  ///< its narrowest place
};

template <>
inline constexpr auto members_of<Cavity> = std::tuple{
    Member{"place_m", &Cavity::place}, Member{"volume_m3", &Cavity::volume},
    Member{"opening_m", &Cavity::opening}, Member{"opening_place_m", &Cavity::opening_place}};
static_assert(members_left_out<Cavity> == 0);

/// Marks the vertices in cavities as solid. The air is divided by its clearance, the distance to
/// the next wall, as a landscape into basins (Vincent, Soille 1991): what is connected with the
/// inflow only by places less than half of `opening` clear, and more than twice as wide, is a
/// cavity. Road and centre plane are no walls here.
/// @param opening width of the widest opening that counts as closed, m
/// @return the largest first
std::vector<Cavity> close_cavities(const Octree& octree, const SolidField& solid, double opening,
                                   DualGrid& grid);

}  // namespace dunefield
