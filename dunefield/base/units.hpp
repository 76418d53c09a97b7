// Quantities with units, as written in files and on the command line: `90 km/h`, `12 mm`, `4 deg`.
#pragma once

#include <string>
#include <string_view>

namespace dunefield {

/// Metres per unit, for programs: `{.unit = millimetre}`.
inline constexpr double metre = 1, millimetre = 1e-3, centimetre = 1e-2, inch = 0.0254,
                        foot = 0.3048;

enum class Dimension {
  number,
  length,
  speed,
  angle,
  density,
  kinematic_viscosity,
  temperature,
  heat_flux,
  area,
  time,
  mass,
  mass_flow
};

/// The value in SI units (angles in radians, temperatures in kelvin).
/// @param text a number and a unit with or without a space between; a plain number only for
/// Dimension::number
/// @param where file and key, for the message
/// @throw InputError when the number cannot be read, is not finite, or the unit is missing or of
/// another dimension
double parse_quantity(std::string_view text, Dimension dimension, const std::string& where);

/// The units accepted for a dimension, for messages: "mm, cm, m, in, ft".
std::string known_units(Dimension dimension);

/// Length of one unit in metres: "mm" gives 0.001. @throw InputError
double length_unit(std::string_view unit, const std::string& where);

}  // namespace dunefield
