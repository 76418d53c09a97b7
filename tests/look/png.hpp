// Pictures as tests see them: pixel by pixel.
#pragma once

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <filesystem>

#include <cairo/cairo.h>

namespace dunefield::test {

class Png {
 public:
  explicit Png(const std::filesystem::path& file)
      : surface_(cairo_image_surface_create_from_png(file.string().c_str())) {}
  ~Png() { cairo_surface_destroy(surface_); }
  Png(const Png&) = delete;
  Png& operator=(const Png&) = delete;

  int width() const { return cairo_image_surface_get_width(surface_); }
  int height() const { return cairo_image_surface_get_height(surface_); }
  /// Red, green and blue as 0xRRGGBB.
  unsigned at(int x, int y) const {
    unsigned v;
    std::memcpy(&v,
                cairo_image_surface_get_data(surface_) +
                    y * cairo_image_surface_get_stride(surface_) + 4 * x,
                4);
    return v & 0xffffff;
  }

 private:
  cairo_surface_t* surface_;
};

/// How many pixels are of which kind.
struct Colours {
  int white = 0, dark = 0, red = 0, grey = 0, coloured = 0;

  explicit Colours(const Png& png) {
    for (int y = 0; y < png.height(); ++y)
      for (int x = 0; x < png.width(); ++x) {
        const unsigned v = png.at(x, y);
        const int r = v >> 16 & 255, g = v >> 8 & 255, b = v & 255;
        white += r > 250 && g > 250 && b > 250;
        dark += r < 90 && g < 90 && b < 90;
        red += r > 180 && g < 80 && b < 80;
        grey += r == g && std::abs(g - b) < 4 && r > 195 && r < 210;
        coloured += std::max({r, g, b}) - std::min({r, g, b}) > 60;
      }
  }
};

}  // namespace dunefield::test
