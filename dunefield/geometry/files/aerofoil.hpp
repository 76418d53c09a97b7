// Wing sections: the four-digit family by formula, and files in the common two-column text form.
#pragma once

#include <array>
#include <filesystem>
#include <string>
#include <vector>

namespace dunefield {

/// A closed outline over a chord of 1: from the trailing edge over the upper side to the leading
/// edge and back below.
struct Aerofoil {
  std::string name;
  /// (along the chord, up); first and last are the two corners of the trailing edge
  std::vector<std::array<double, 2>> points;
};

/// Camber, its place and thickness in hundredths, tenths and hundredths of the chord, as in "4412"
/// (Jacobs, Ward, Pinkerton 1933).
/// @param points_per_side cosine-spaced. @throw InputError for anything but four digits of a real
/// section
Aerofoil four_digit_section(const std::string& code, int points_per_side = 40);

/// Two columns, either from the trailing edge round the nose or both sides from the nose; brought
/// to a chord of 1.
/// @throw InputError with the line; also for a section whose two sides cross
Aerofoil read_aerofoil(const std::filesystem::path& file);

}  // namespace dunefield
