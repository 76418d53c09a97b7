#include <dunefield/look/canvas.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>

#include <cairo/cairo.h>
#include <fmt/format.h>
#include <pango/pangocairo.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr Colour ink{0.16, 0.17, 0.20};

template <std::size_t N>
Colour along(const std::array<Colour, N>& stops, double share) {
  const double x = std::clamp(share, 0.0, 1.0) * (N - 1);
  const auto i = std::min(static_cast<std::size_t>(x), N - 2);
  const double t = x - static_cast<double>(i);
  const Colour &a = stops[i], &b = stops[i + 1];
  return {a.r + t * (b.r - a.r), a.g + t * (b.g - a.g), a.b + t * (b.b - a.b)};
}

}  // namespace

Colour palette_colour(Palette palette, double share) {
  static const std::array<Colour, 6> dune = {{{0.09, 0.10, 0.28},
                                              {0.11, 0.28, 0.47},
                                              {0.13, 0.48, 0.53},
                                              {0.42, 0.66, 0.52},
                                              {0.83, 0.77, 0.50},
                                              {0.98, 0.93, 0.80}}};
  static const std::array<Colour, 7> balance = {{{0.13, 0.20, 0.50},
                                                 {0.24, 0.45, 0.73},
                                                 {0.62, 0.78, 0.88},
                                                 {0.95, 0.94, 0.91},
                                                 {0.95, 0.72, 0.55},
                                                 {0.80, 0.38, 0.27},
                                                 {0.50, 0.10, 0.15}}};
  if (!std::isfinite(share)) return {0.5, 0.5, 0.5};
  return palette == Palette::dune ? along(dune, share) : along(balance, share);
}

std::vector<double> round_marks(double least, double most, int wanted) {
  if (!(most > least)) return {least};
  const double raw = (most - least) / std::max(1, wanted),
               power = std::pow(10, std::floor(std::log10(raw)));
  double step = 10 * power;
  for (const double s : {1.0, 2.0, 5.0})
    if (s * power >= raw * 0.999) {
      step = s * power;
      break;
    }
  std::vector<double> marks;
  for (long i = std::lround(std::ceil(least / step - 1e-9)); i * step <= most + 1e-9 * step; ++i)
    marks.push_back(static_cast<double>(i) * step);
  return marks;
}

struct Canvas::State {
  cairo_surface_t* surface;
  cairo_t* cairo;
  ~State() {
    cairo_destroy(cairo);
    cairo_surface_destroy(surface);
  }
};

Canvas::Canvas(int width, int height, Colour background)
    : state_(std::make_unique<State>()), width_(width), height_(height) {
  state_->surface = cairo_image_surface_create(CAIRO_FORMAT_RGB24, width, height);
  state_->cairo = cairo_create(state_->surface);
  cairo_set_source_rgb(state_->cairo, background.r, background.g, background.b);
  cairo_paint(state_->cairo);
}
Canvas::~Canvas() = default;

void Canvas::set_pixel(int x, int y, Colour c) {
  if (x < 0 || y < 0 || x >= width_ || y >= height_) return;
  cairo_surface_flush(state_->surface);
  unsigned char* row =
      cairo_image_surface_get_data(state_->surface) +
      static_cast<std::ptrdiff_t>(y) * cairo_image_surface_get_stride(state_->surface);
  const auto byte = [](double v) {
    return static_cast<std::uint32_t>(std::lround(255 * std::clamp(v, 0.0, 1.0)));
  };
  reinterpret_cast<std::uint32_t*>(row)[x] = byte(c.r) << 16 | byte(c.g) << 8 | byte(c.b);
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

void Canvas::ring(double x, double y, double radius, Colour c) {
  constexpr int sides = 16;
  for (int i = 0; i < sides; ++i) {
    const double a = 6.283185307179586 * i / sides, b = 6.283185307179586 * (i + 1) / sides;
    line(x + radius * std::cos(a), y + radius * std::sin(a), x + radius * std::cos(b),
         y + radius * std::sin(b), 2, c);
  }
}

void Canvas::text(double x, double y, const std::string& text, double size, Colour c, Anchor anchor,
                  bool bold) {
  cairo_t* cr = state_->cairo;
  PangoLayout* layout = pango_cairo_create_layout(cr);
  PangoFontDescription* font =
      pango_font_description_from_string(bold ? "DejaVu Sans Bold" : "DejaVu Sans");
  pango_font_description_set_absolute_size(font, size * PANGO_SCALE);
  pango_layout_set_font_description(layout, font);
  pango_layout_set_text(layout, text.c_str(), static_cast<int>(text.size()));
  int w = 0, h = 0;
  pango_layout_get_pixel_size(layout, &w, &h);
  cairo_set_source_rgb(cr, c.r, c.g, c.b);
  cairo_move_to(cr, anchor == Anchor::left ? x : anchor == Anchor::centre ? x - 0.5 * w : x - w, y);
  pango_cairo_show_layout(cr, layout);
  pango_font_description_free(font);
  g_object_unref(layout);
}

void Canvas::legend(const ColourScale& scale, double x, double y, double width) {
  text(x, y, scale.title, 16, ink);
  constexpr double bar = 16;
  const double top = y + 26;
  for (int i = 0; i < static_cast<int>(width); ++i)
    line(x + i + 0.5, top, x + i + 0.5, top + bar, 1.2, palette_colour(scale.palette, i / width));
  for (const double mark : round_marks(scale.least, scale.most, 6)) {
    const double at = x + width * (mark - scale.least) / (scale.most - scale.least);
    line(at, top + bar, at, top + bar + 5, 1.2, ink);
    text(at, top + bar + 6, fmt::format("{:.4g}", std::abs(mark) < 1e-12 ? 0.0 : mark), 14, ink,
         Anchor::centre);
  }
}

void Canvas::write_png(const std::filesystem::path& file) {
  const cairo_status_t status = cairo_surface_write_to_png(state_->surface, file.string().c_str());
  if (status != CAIRO_STATUS_SUCCESS)
    throw OutputError(
        std::string("the picture cannot be written (") + cairo_status_to_string(status) + ")",
        file.string(), "check the folder");
}

}  // namespace dunefield
