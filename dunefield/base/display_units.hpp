// The units that people read: tables of the tool and the report alike. Files and JSON stay in SI.
#pragma once

#include <string>

namespace dunefield {

struct DisplayUnits {
  /// What one unit is in SI, and its name.
  struct Unit {
    double size;
    const char* name;
  };
  std::string name = "si";
  Unit speed{1 / 3.6, "km/h"}, force{1, "N"}, power{1, "W"}, area{1, "m2"};

  /// "90 km/h", "56 mph"
  std::string speed_text(double metres_per_second) const;
  /// "1155 W", "1.5 hp"
  std::string power_text(double watts) const;
  /// A number without the unit, for a column that names it.
  std::string in(const Unit& unit, double si, int digits) const;
};

/// "si", or nothing: km/h, N, W, m2; "us": mph, lbf, hp, ft2. @throw InputError for others
DisplayUnits display_units(const std::string& name, const std::string& where);

}  // namespace dunefield
