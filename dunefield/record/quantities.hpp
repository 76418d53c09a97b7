// What a record can be asked for by name, in the air and on the wall, each with its unit.
#pragma once

#include <string>
#include <vector>

#include <dunefield/record/record.hpp>

namespace dunefield {

struct Quantity {
  std::string name, unit;  ///< without unit: a coefficient
  bool vector = false;
  bool in_air = false, on_wall = false;
  bool stored = true;  ///< false: worked out from others when asked for, by gradients
  bool axial = false;  ///< of a turning: its image in a mirror turns the other way
  /// A number whose sign changes in the mirror of a half model's centre plane
  bool odd = false;
};

/// All that this record has.
std::vector<Quantity> quantities(const Record& record);

/// The quantity of this name, or that of a formula: `= 1 - total_Cp` of the numbers in the air (or
/// on the wall), with underscores for what is no letter; also `x`, `y`, `z` (m) and `q` (Pa). A
/// vector where a number is asked for gives its length. The unit of what comes out, if any, stands
/// behind: `= q * Cp [Pa]`. @throw InputError as below
Quantity quantity_named(const Record& record, const std::string& name);
inline bool is_formula(const std::string& name) { return name.starts_with('='); }

/// Whether a number is another one in the mirror of a half model's centre plane; so formulas may
/// be.
inline bool differs_in_mirror(const Record& record, const std::string& name) {
  return is_formula(name) || quantity_named(record, name).odd;
}

/// What a half model's other side has of a number: with the sign of odd quantities turned.
enum class Side { meshed, mirrored };

/// Values per cell, or per boundary face of the mesh (zero where there is no wall).
/// Pressures are relative to the undisturbed stream.
/// @throw InputError for a quantity that the record does not have there, naming those it has
std::vector<double> scalar_in_air(const Record& record, const std::string& name,
                                  Side side = Side::meshed);
std::vector<Vec3> vector_in_air(const Record& record, const std::string& name);
std::vector<double> scalar_on_wall(const Record& record, const std::string& name,
                                   Side side = Side::meshed);
std::vector<Vec3> vector_on_wall(const Record& record, const std::string& name);

}  // namespace dunefield
