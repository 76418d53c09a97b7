// A drawing surface of pixels with text, on cairo and pango; no display needed.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include <dunefield/look/colour_scale.hpp>
#include <dunefield/look/image.hpp>

namespace dunefield {

class Canvas {
 public:
  Canvas(int width, int height, Colour background);
  /// On a picture.
  explicit Canvas(const Image& image);
  /// Lines and words instead of pixels, which `svg_text` completes.
  static Canvas of_lines(int width, int height, Colour background);
  ~Canvas();
  Canvas(Canvas&&) noexcept;
  Canvas(const Canvas&) = delete;
  Canvas& operator=(const Canvas&) = delete;

  int width() const { return width_; }
  int height() const { return height_; }
  void set_pixel(int x, int y, Colour c);
  /// Lengths, places and letters of what is drawn from now on are so many times larger.
  void enlarge(double factor);
  void fill_polygon(const std::vector<double>& xy, Colour c);
  void line(double x0, double y0, double x1, double y1, double width, Colour c);
  /// @param xy x and y of each corner; dashes: lengths of strokes and gaps, or none
  void polyline(const std::vector<double>& xy, double width, Colour c,
                const std::vector<double>& dashes = {});
  /// A circle's outline, two pixels wide.
  void ring(double x, double y, double radius, Colour c);
  enum class Anchor { left, centre, right };
  void text(double x, double y, const std::string& text, double size, Colour c,
            Anchor anchor = Anchor::left, bool bold = false);
  /// Text of one or two lines, as wide as this at most, that ends at `bottom`; what is longer ends
  /// with dots.
  void paragraph(double x, double bottom, double width, const std::string& text, double size,
                 Colour c);
  /// A horizontal colour bar with round-number marks and its title.
  void legend(const ColourScale& scale, double x, double y, double width,
              Colour c = {0.16, 0.17, 0.20});
  double text_width(const std::string& text, double size) const;
  /// All that is on it now.
  Image image() const;
  std::string png_bytes() const;
  /// The picture of lines as SVG; nothing can be drawn afterwards.
  std::string svg_text();
  /// @throw OutputError
  void write_png(const std::filesystem::path& file);

 private:
  struct State;
  Canvas(std::unique_ptr<State> state, int width, int height, Colour background);
  void put(int x, int y, const Colour& c);
  std::unique_ptr<State> state_;
  int width_, height_;
};

}  // namespace dunefield
