// Colours of values.
#pragma once

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

namespace dunefield {

struct Colour {
  double r = 0, g = 0, b = 0;
};
inline Colour operator*(const Colour& c, double s) { return {c.r * s, c.g * s, c.b * s}; }
inline Colour operator+(const Colour& a, const Colour& b) {
  return {a.r + b.r, a.g + b.g, a.b + b.b};
}

/// Colours over [0, 1], even in lightness.
enum class Palette {
  dune,     ///< night blue over teal to sand: for magnitudes
  balance,  ///< blue over near-white to red: for quantities with a meaningful zero in the middle
};
Colour palette_colour(Palette palette, double share);

/// A range of values and how it is shown; set once, it stays the same for every picture.
struct ColourScale {
  Palette palette = Palette::dune;
  double least = 0, most = 1;
  std::string title;  ///< quantity and unit
  int bands = 0;      ///< steps of one colour; 0: smooth
  Colour of(double value) const {
    double share = most > least ? (value - least) / (most - least) : 0.5;
    if (bands > 0 && std::isfinite(share))
      share = (std::clamp(std::floor(share * bands), 0.0, bands - 1.0) + 0.5) / bands;
    return palette_colour(palette, share);
  }
};

/// Round numbers inside [least, most], about `wanted` of them.
std::vector<double> round_marks(double least, double most, int wanted);
/// So many steps from least to most, about ten, that each is round; ten where none is.
int round_bands(double least, double most);

/// For a number of bands: as many as make each step round.
constexpr int round_steps = -1;
/// How many bands a scale gets. @param wanted a number, or round_steps
int bands_of(const ColourScale& scale, int wanted);
/// The values between one band and the next.
std::vector<double> edges_of_bands(const ColourScale& scale, int wanted);
/// Round levels, about `wanted`; not the ends of the range, where the undisturbed air often is.
std::vector<double> levels_inside(const ColourScale& scale, int wanted);

}  // namespace dunefield
