#include <dunefield/look/canvas.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>

#include <cairo/cairo-svg.h>
#include <cairo/cairo.h>
#include <fmt/format.h>
#include <pango/pangocairo.h>

#include <dunefield/base/text_file.hpp>
#include <dunefield/base/valid_text.hpp>

namespace dunefield {
namespace {

cairo_status_t append_to(void* text, const unsigned char* data, unsigned length) {
  static_cast<std::string*>(text)->append(reinterpret_cast<const char*>(data), length);
  return CAIRO_STATUS_SUCCESS;
}

}  // namespace

struct Canvas::State {
  explicit State(cairo_surface_t* of = nullptr) : surface(of) {}
  State(const State&) = delete;
  State& operator=(const State&) = delete;
  ~State() {
    cairo_destroy(cairo);
    cairo_surface_destroy(surface);
  }
  std::string svg;  ///< outlives the surface that is written into it
  cairo_surface_t* surface;
  cairo_t* cairo = nullptr;
};

Canvas::Canvas(std::unique_ptr<State> state, int width, int height, Colour background)
    : state_(std::move(state)), width_(width), height_(height) {
  state_->cairo = cairo_create(state_->surface);
  cairo_set_source_rgb(state_->cairo, background.r, background.g, background.b);
  cairo_paint(state_->cairo);
}
Canvas::Canvas(int width, int height, Colour background)
    : Canvas(std::make_unique<State>(cairo_image_surface_create(CAIRO_FORMAT_RGB24, width, height)),
             width, height, background) {}
Canvas Canvas::of_lines(int width, int height, Colour background) {
  auto state = std::make_unique<State>();
  state->surface = cairo_svg_surface_create_for_stream(append_to, &state->svg, width, height);
  return Canvas(std::move(state), width, height, background);
}
Canvas::Canvas(const Image& image) : Canvas(image.width, image.height, {}) {
  for (int y = 0; y < height_; ++y)
    for (int x = 0; x < width_; ++x) put(x, y, image.at(x, y));
  cairo_surface_mark_dirty(state_->surface);
}
Canvas::~Canvas() = default;
Canvas::Canvas(Canvas&&) noexcept = default;

std::string Canvas::svg_text() {
  cairo_surface_finish(state_->surface);
  return state_->svg;
}

void Canvas::enlarge(double factor) { cairo_scale(state_->cairo, factor, factor); }

void Canvas::put(int x, int y, const Colour& c) {
  unsigned char* row =
      cairo_image_surface_get_data(state_->surface) +
      static_cast<std::ptrdiff_t>(y) * cairo_image_surface_get_stride(state_->surface);
  const auto byte = [](double v) {
    return static_cast<std::uint32_t>(std::lround(255 * std::clamp(v, 0.0, 1.0)));
  };
  reinterpret_cast<std::uint32_t*>(row)[x] = byte(c.r) << 16 | byte(c.g) << 8 | byte(c.b);
}

Image Canvas::image() const {
  Image out(width_, height_);
  cairo_surface_flush(state_->surface);
  for (int y = 0; y < height_; ++y) {
    const auto* row = reinterpret_cast<const std::uint32_t*>(
        cairo_image_surface_get_data(state_->surface) +
        static_cast<std::ptrdiff_t>(y) * cairo_image_surface_get_stride(state_->surface));
    for (int x = 0; x < width_; ++x)
      out.at(x, y) = {(row[x] >> 16 & 255) / 255.0, (row[x] >> 8 & 255) / 255.0,
                      (row[x] & 255) / 255.0};
  }
  return out;
}

void Canvas::set_pixel(int x, int y, Colour c) {
  if (x < 0 || y < 0 || x >= width_ || y >= height_) return;
  cairo_surface_flush(state_->surface);
  put(x, y, c);
  cairo_surface_mark_dirty(state_->surface);
}

void Canvas::fill_polygon(const std::vector<double>& xy, Colour c) {
  cairo_t* cr = state_->cairo;
  cairo_set_antialias(cr, CAIRO_ANTIALIAS_NONE);  // neighbouring cells must not show seams
  cairo_new_path(cr);
  for (std::size_t i = 0; i + 1 < xy.size(); i += 2) cairo_line_to(cr, xy[i], xy[i + 1]);
  cairo_close_path(cr);
  cairo_set_source_rgb(cr, c.r, c.g, c.b);
  cairo_fill(cr);
  cairo_set_antialias(cr, CAIRO_ANTIALIAS_DEFAULT);
}

void Canvas::line(double x0, double y0, double x1, double y1, double width, Colour c) {
  cairo_t* cr = state_->cairo;
  cairo_set_source_rgb(cr, c.r, c.g, c.b);
  cairo_set_line_width(cr, width);
  cairo_new_path(cr);
  cairo_move_to(cr, x0, y0);
  cairo_line_to(cr, x1, y1);
  cairo_stroke(cr);
}

void Canvas::polyline(const std::vector<double>& xy, double width, Colour c,
                      const std::vector<double>& dashes) {
  cairo_t* cr = state_->cairo;
  cairo_set_source_rgb(cr, c.r, c.g, c.b);
  cairo_set_line_width(cr, width);
  cairo_set_line_join(cr, CAIRO_LINE_JOIN_ROUND);
  cairo_set_dash(cr, dashes.data(), static_cast<int>(dashes.size()), 0);
  cairo_new_path(cr);
  for (std::size_t i = 0; i + 1 < xy.size(); i += 2) cairo_line_to(cr, xy[i], xy[i + 1]);
  cairo_stroke(cr);
  cairo_set_dash(cr, nullptr, 0, 0);
}

void Canvas::ring(double x, double y, double radius, Colour c) {
  constexpr int sides = 16;
  for (int i = 0; i < sides; ++i) {
    const double a = 6.283185307179586 * i / sides, b = 6.283185307179586 * (i + 1) / sides;
    line(x + radius * std::cos(a), y + radius * std::sin(a), x + radius * std::cos(b),
         y + radius * std::sin(b), 2, c);
  }
}

namespace {

struct LayoutEnd {
  void operator()(PangoLayout* layout) const { g_object_unref(layout); }
};
using Layout = std::unique_ptr<PangoLayout, LayoutEnd>;

Layout layout_of(cairo_t* cr, const std::string& text, double size, bool bold) {
  Layout layout(pango_cairo_create_layout(cr));
  PangoFontDescription* font =
      pango_font_description_from_string(bold ? "DejaVu Sans Bold" : "DejaVu Sans");
  pango_font_description_set_absolute_size(font, size * PANGO_SCALE);
  pango_layout_set_font_description(layout.get(), font);
  pango_font_description_free(font);
  pango_layout_set_text(layout.get(), valid_text(text).c_str(), -1);
  return layout;
}

}  // namespace

void Canvas::text(double x, double y, const std::string& text, double size, Colour c, Anchor anchor,
                  bool bold) {
  cairo_t* cr = state_->cairo;
  const Layout layout = layout_of(cr, text, size, bold);
  int w = 0, h = 0;
  pango_layout_get_pixel_size(layout.get(), &w, &h);
  cairo_set_source_rgb(cr, c.r, c.g, c.b);
  cairo_move_to(cr, anchor == Anchor::left ? x : anchor == Anchor::centre ? x - 0.5 * w : x - w, y);
  pango_cairo_show_layout(cr, layout.get());
}

void Canvas::paragraph(double x, double bottom, double width, const std::string& text, double size,
                       Colour c) {
  constexpr int most_lines = 2;
  cairo_t* cr = state_->cairo;
  const Layout layout = layout_of(cr, text, size, false);
  pango_layout_set_width(layout.get(), static_cast<int>(width) * PANGO_SCALE);
  pango_layout_set_height(layout.get(), -most_lines);
  pango_layout_set_ellipsize(layout.get(), PANGO_ELLIPSIZE_END);
  int w = 0, h = 0;
  pango_layout_get_pixel_size(layout.get(), &w, &h);
  cairo_set_source_rgb(cr, c.r, c.g, c.b);
  cairo_move_to(cr, x, bottom - h);
  pango_cairo_show_layout(cr, layout.get());
}

double Canvas::text_width(const std::string& text, double size) const {
  int w = 0, h = 0;
  pango_layout_get_pixel_size(layout_of(state_->cairo, text, size, false).get(), &w, &h);
  return w;
}

namespace {

/// Three digits, and no powers of ten where they can be read without.
std::string mark_text(double mark, double range) {
  if (std::abs(mark) < 1e-9 * range) return "0";
  return std::abs(mark) >= 1000 && std::abs(mark) < 1e6 ? fmt::format("{:.0f}", mark)
                                                        : fmt::format("{:.3g}", mark);
}

}  // namespace

void Canvas::legend(const ColourScale& scale, double x, double y, double width, Colour c) {
  text(x, y, scale.title, 15, c);
  constexpr double bar = 14;
  const double top = y + 24;
  for (int i = 0; i < static_cast<int>(width); ++i)
    line(x + i + 0.5, top, x + i + 0.5, top + bar, 2,  // over the one before, no paper between
         scale.of(scale.least + (scale.most - scale.least) * (i + 0.5) / width));
  std::vector<double> marks = round_marks(scale.least, scale.most, 6);
  if (scale.bands > 0 && scale.bands <= 40) {  // the steps themselves, as far as there is room
    marks.clear();
    for (int i = 0; i <= scale.bands; i += 1 + (scale.bands - 1) / 6)
      marks.push_back(scale.least + (scale.most - scale.least) * i / scale.bands);
  }
  for (const double mark : marks) {
    const double at = x + width * (mark - scale.least) / (scale.most - scale.least);
    line(at, top + bar, at, top + bar + 5, 1.2, c);
    text(at, top + bar + 6, mark_text(mark, scale.most - scale.least), 13, c, Anchor::centre);
  }
}

std::string Canvas::png_bytes() const {
  std::string bytes;
  cairo_surface_write_to_png_stream(state_->surface, append_to, &bytes);
  return bytes;
}

void Canvas::write_png(const std::filesystem::path& file) { write_text(file, png_bytes()); }

void save_png(const std::filesystem::path& file, const Image& image) {
  Canvas(image).write_png(file);
}

Image tiled(const std::vector<Image>& images, int columns, const Colour& paper) {
  if (images.empty()) return {};
  constexpr int gap = 8;
  const int n = static_cast<int>(images.size()), across = std::min(columns, n),
            down = (n + across - 1) / across, w = images[0].width, h = images[0].height;
  Image out(across * w + (across - 1) * gap, down * h + (down - 1) * gap, paper);
  for (int i = 0; i < n; ++i) {
    const Image& one = images[static_cast<std::size_t>(i)];
    for (int y = 0; y < std::min(h, one.height); ++y)
      for (int x = 0; x < std::min(w, one.width); ++x)
        out.at(i % across * (w + gap) + x, i / across * (h + gap) + y) = one.at(x, y);
  }
  return out;
}

}  // namespace dunefield
