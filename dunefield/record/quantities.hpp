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
};

/// All that this record has.
std::vector<Quantity> quantities(const Record& record);

/// Values per cell, or per boundary face of the mesh (zero where there is no wall).
/// Pressures are relative to the undisturbed stream.
/// @throw InputError for a quantity that the record does not have there, naming those it has
std::vector<double> scalar_in_air(const Record& record, const std::string& name);
std::vector<Vec3> vector_in_air(const Record& record, const std::string& name);
std::vector<double> scalar_on_wall(const Record& record, const std::string& name);
std::vector<Vec3> vector_on_wall(const Record& record, const std::string& name);

}  // namespace dunefield
