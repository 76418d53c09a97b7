// Pixels of a picture.
#pragma once

#include <filesystem>
#include <vector>

#include <dunefield/look/colour_scale.hpp>

namespace dunefield {

struct Image {
  int width = 0, height = 0;
  std::vector<Colour> pixels;  ///< rows from above
  Image() = default;
  Image(int w, int h, const Colour& c = {1, 1, 1})
      : width(w), height(h), pixels(static_cast<std::size_t>(w) * static_cast<std::size_t>(h), c) {}
  Colour& at(int x, int y) {
    return pixels[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                  static_cast<std::size_t>(x)];
  }
  const Colour& at(int x, int y) const { return const_cast<Image*>(this)->at(x, y); }
};

/// A rectangle of a picture in pixels.
struct PixelFrame {
  double x = 0, y = 0, width = 0, height = 0;
};

/// @throw OutputError
void save_png(const std::filesystem::path& file, const Image& image);

/// Pictures in rows of `columns` on one sheet, a gap between them.
Image tiled(const std::vector<Image>& images, int columns, const Colour& paper);

}  // namespace dunefield
