// A drawing surface of pixels with text, on cairo and pango; no display needed.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace dunefield {

struct Colour {
  double r = 0, g = 0, b = 0;
};

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
  Colour of(double value) const {
    return palette_colour(palette, most > least ? (value - least) / (most - least) : 0.5);
  }
};

class Canvas {
 public:
  Canvas(int width, int height, Colour background);
  ~Canvas();
  Canvas(const Canvas&) = delete;
  Canvas& operator=(const Canvas&) = delete;

  int width() const { return width_; }
  int height() const { return height_; }
  void set_pixel(int x, int y, Colour c);
  void fill_polygon(const std::vector<double>& xy, Colour c);
  void line(double x0, double y0, double x1, double y1, double width, Colour c);
  /// A circle's outline, two pixels wide.
  void ring(double x, double y, double radius, Colour c);
  enum class Anchor { left, centre, right };
  void text(double x, double y, const std::string& text, double size, Colour c,
            Anchor anchor = Anchor::left, bool bold = false);
  /// A horizontal colour bar with round-number marks and its title.
  void legend(const ColourScale& scale, double x, double y, double width);
  /// @throw OutputError
  void write_png(const std::filesystem::path& file);

 private:
  struct State;
  std::unique_ptr<State> state_;
  int width_, height_;
};

/// Round numbers inside [least, most], about `wanted` of them.
std::vector<double> round_marks(double least, double most, int wanted);

}  // namespace dunefield
