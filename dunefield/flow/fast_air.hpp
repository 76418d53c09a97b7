// Air that is compressed by its own speed: an ideal gas with the viscosity of Sutherland (1893).
#pragma once

#include <cmath>

#include <dunefield/base/members.hpp>

namespace dunefield {

/// Of the undisturbed stream, whose density and viscosity are those of `Air`.
struct FastAir {
  double temperature = 288.15;  ///< K
  double gas_constant = 287.05, heat_ratio = 1.4;
  double prandtl = 0.72, turbulent_prandtl = 0.9;

  double cp() const { return heat_ratio * gas_constant / (heat_ratio - 1); }  ///< J/(kg K)
  double speed_of_sound(double at_temperature) const {
    return std::sqrt(heat_ratio * gas_constant * at_temperature);
  }
  /// Viscosity over that of the stream.
  double viscosity_ratio(double at_temperature) const {
    constexpr double sutherland = 110.4;  // K
    const double t = at_temperature / temperature;
    return t * std::sqrt(t) * (temperature + sutherland) / (at_temperature + sutherland);
  }
};

template <>
inline constexpr auto members_of<FastAir> =
    std::tuple{Member{"temperature_K", &FastAir::temperature},
               Member{"gas_constant_J_kg_K", &FastAir::gas_constant},
               Member{"heat_ratio", &FastAir::heat_ratio}, Member{"prandtl", &FastAir::prandtl},
               Member{"turbulent_prandtl", &FastAir::turbulent_prandtl}};
static_assert(members_left_out<FastAir> == 0);

}  // namespace dunefield
