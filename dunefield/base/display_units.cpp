#include <dunefield/base/display_units.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {

std::string DisplayUnits::speed_text(double metres_per_second) const {
  return fmt::format("{:.4g} {}", metres_per_second / speed.size, speed.name);
}

std::string DisplayUnits::power_text(double watts) const {
  return fmt::format("{:.{}f} {}", watts / power.size, power.size > 1 ? 1 : 0, power.name);
}

std::string DisplayUnits::in(const Unit& unit, double si, int digits) const {
  return fmt::format("{:.{}f}", si / unit.size, digits);
}

DisplayUnits display_units(const std::string& name, const std::string& where) {
  if (name.empty() || name == "si") return {};
  if (name != "us")
    throw InputError("'" + name + "' are no units", where,
                     "use \"si\" (km/h, N, W) or \"us\" (mph, lbf, hp)");
  constexpr double mile = 1609.344, foot = 0.3048, pound_force = 4.4482216152605,
                   horsepower = 745.69987158227;
  return {
      name, {mile / 3600, "mph"}, {pound_force, "lbf"}, {horsepower, "hp"}, {foot * foot, "ft2"}};
}

}  // namespace dunefield
