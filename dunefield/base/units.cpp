#include <dunefield/base/units.hpp>

#include <charconv>
#include <cmath>
#include <numbers>
#include <vector>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

struct Unit {
  const char* name;
  Dimension dimension;
  double factor;
  double offset = 0;
};

constexpr double pi = std::numbers::pi;

const std::vector<Unit>& units() {
  static const std::vector<Unit> table = {
      {"m", Dimension::length, 1},
      {"mm", Dimension::length, 1e-3},
      {"cm", Dimension::length, 1e-2},
      {"in", Dimension::length, 0.0254},
      {"ft", Dimension::length, 0.3048},
      {"km", Dimension::length, 1000},
      {"mi", Dimension::length, 1609.344},
      {"m/s", Dimension::speed, 1},
      {"km/h", Dimension::speed, 1 / 3.6},
      {"mph", Dimension::speed, 0.44704},
      {"kn", Dimension::speed, 1852.0 / 3600},
      {"ft/s", Dimension::speed, 0.3048},
      {"deg", Dimension::angle, pi / 180},
      {"rad", Dimension::angle, 1},
      {"kg/m3", Dimension::density, 1},
      {"m2/s", Dimension::kinematic_viscosity, 1},
      {"mm2/s", Dimension::kinematic_viscosity, 1e-6},
      {"K", Dimension::temperature, 1},
      {"degC", Dimension::temperature, 1, 273.15},
      {"W/m2", Dimension::heat_flux, 1},
      {"kW/m2", Dimension::heat_flux, 1000},
      {"m2", Dimension::area, 1},
      {"cm2", Dimension::area, 1e-4},
      {"s", Dimension::time, 1},
      {"ms", Dimension::time, 1e-3},
      {"min", Dimension::time, 60},
      {"h", Dimension::time, 3600},
      {"kg", Dimension::mass, 1},
      {"t", Dimension::mass, 1000},
      {"lb", Dimension::mass, 0.45359237},
      {"kg/s", Dimension::mass_flow, 1},
      {"g/s", Dimension::mass_flow, 1e-3},
      {"kg/h", Dimension::mass_flow, 1 / 3600.0},
  };
  return table;
}

std::string_view trimmed(std::string_view s) {
  while (!s.empty() && (s.front() == ' ' || s.front() == '\t')) s.remove_prefix(1);
  while (!s.empty() && (s.back() == ' ' || s.back() == '\t')) s.remove_suffix(1);
  return s;
}

}  // namespace

std::string known_units(Dimension dimension) {
  std::string out;
  for (const Unit& u : units())
    if (u.dimension == dimension) out += (out.empty() ? "" : ", ") + std::string(u.name);
  return out;
}

double parse_quantity(std::string_view text, Dimension dimension, const std::string& where) {
  const std::string_view all = trimmed(text);
  double value = 0;
  const auto [end, status] = std::from_chars(all.data(), all.data() + all.size(), value);
  const std::string shown = "'" + std::string(text) + "'";
  if (status != std::errc() || !std::isfinite(value))
    throw InputError(shown + " does not start with a number", where,
                     dimension == Dimension::number
                         ? "write a plain number"
                         : "write a number and a unit (" + known_units(dimension) + ")");
  const std::string_view unit = trimmed(all.substr(static_cast<std::size_t>(end - all.data())));
  if (dimension == Dimension::number) {
    if (unit.empty()) return value;
    throw InputError(shown + " has a unit where a plain number is expected", where,
                     "leave the unit out");
  }
  for (const Unit& u : units())
    if (unit == u.name && u.dimension == dimension) return value * u.factor + u.offset;
  throw InputError(shown + (unit.empty() ? " has no unit" : " has the wrong unit"), where,
                   "use one of " + known_units(dimension));
}

double length_unit(std::string_view unit, const std::string& where) {
  for (const Unit& u : units())
    if (trimmed(unit) == u.name && u.dimension == Dimension::length) return u.factor;
  throw InputError("'" + std::string(unit) + "' is no unit of length", where,
                   "use one of " + known_units(Dimension::length));
}

}  // namespace dunefield
