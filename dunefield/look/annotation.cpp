#include <dunefield/look/annotation.hpp>

#include <cmath>
#include <set>

#include <fmt/format.h>

#include <dunefield/look/canvas.hpp>
#include <dunefield/look/render.hpp>

namespace dunefield {
namespace {

constexpr double margin = 28, legend_height = 84, legend_gap = 40;

/// What is written and drawn around a picture is as large as on one of 1280 pixels, in proportion;
/// letters stay readable.
struct Paper {
  explicit Paper(const Scene& s)
      : scale(std::clamp(s.width / 1280.0, 0.7, 2.5)),
        width(s.width / scale),
        height(s.height / scale) {}
  double scale;          ///< pixels of the picture for one of ours
  double width, height;  ///< in ours
};

std::set<std::string> shown_quantities(const Scene& s) {
  std::set<std::string> shown;
  for (const Sheet& one : s.sheets)
    if (!one.values.empty()) shown.insert(one.quantity);
  for (const Bundle& one : s.bundles)
    for (const Strand& strand : one.strands)
      if (!strand.values.empty()) shown.insert(one.quantity);
  std::erase_if(shown, [&](const std::string& q) { return !s.scales.count(q); });
  return shown;
}

void draw_legends(Canvas& canvas, const Scene& s, const Paper& paper, const PaperColours& colours) {
  const auto shown = shown_quantities(s);
  if (shown.empty()) return;
  const auto count = static_cast<double>(shown.size());
  const double width = std::min(
      420.0, (paper.width * 0.82 - 2 * margin - (count - 1) * legend_gap) / std::max(count, 1.3));
  double x = margin;
  for (const std::string& q : shown) {
    canvas.legend(s.scales.at(q), x, paper.height - legend_height, width, colours.ink);
    x += width + legend_gap;
  }
}

/// A round length, as long as a sixth of the picture at the most. In perspective there is no one
/// scale.
void draw_scale_bar(Canvas& canvas, const Scene& s, const Paper& paper, const Camera& camera,
                    const PaperColours& colours) {
  if (s.view.perspective && !s.flat) return;
  const double metres_per_pixel = paper.scale * camera.metres_per_pixel(),
               most = paper.width / 7 * metres_per_pixel;
  const double power = std::pow(10, std::floor(std::log10(most)));
  const double length = most >= 5 * power ? 5 * power : most >= 2 * power ? 2 * power : power;
  const double pixels = length / metres_per_pixel, right = paper.width - margin,
               y = paper.height - 34;
  canvas.line(right - pixels, y, right, y, 2, colours.ink);
  for (const double x : {right - pixels, right}) canvas.line(x, y - 4, x, y + 4, 2, colours.ink);
  const std::string text = length >= 1      ? fmt::format("{:.0f} m", length)
                           : length >= 0.01 ? fmt::format("{:.0f} cm", 100 * length)
                                            : fmt::format("{:.3g} mm", 1000 * length);
  canvas.text(right - 0.5 * pixels, y - 22, text, 13, colours.ink, Canvas::Anchor::centre);
}

void draw_axes(Canvas& canvas, const Paper& paper, const Camera& camera,
               const PaperColours& colours) {
  const double length = 30, x0 = paper.width - margin - 28, y0 = margin + 52;
  const char* names[] = {"x", "y", "z"};
  for (int k = 0; k < 3; ++k) {
    Vec3 axis;
    axis[k] = 1;
    const double dx = dot(axis, camera.right()), dy = -dot(axis, camera.up());
    if (std::hypot(dx, dy) < 0.15) continue;
    canvas.line(x0, y0, x0 + length * dx, y0 + length * dy, 1.5, colours.faint);
    canvas.text(x0 + (length + 9) * dx, y0 + (length + 9) * dy - 8, names[k], 12, colours.faint,
                Canvas::Anchor::centre);
  }
}

void draw_marks(Canvas& canvas, const Scene& s, const Paper& paper, const Camera& camera,
                const PaperColours& colours) {
  constexpr double size = 12;
  for (const Mark& m : s.marks) {
    const auto at = camera.project(m.place);
    if (!at || at->x < 0 || at->y < 0 || at->x > s.width || at->y > s.height) continue;
    const double x0 = at->x / paper.scale, y0 = at->y / paper.scale,
                 width = canvas.text_width(m.text, size) + 6, x = m.dot ? x0 + 8 : x0 - 0.5 * width,
                 y = y0 - (m.dot ? 18 : 8);
    if (m.dot) canvas.ring(x0, y0, 4, colours.ink);
    canvas.fill_polygon({x, y, x + width, y, x + width, y + size + 5, x, y + size + 5},
                        colours.paper);
    canvas.text(x + 3, y, m.text, size, colours.ink);
  }
}

/// A flat picture proper is cut square, at the picture's frame where it is seen from near.
void cut_square(Canvas& canvas, const Scene& s, const Camera& camera, const PaperColours& colours) {
  const auto blank = [&](double x0, double y0, double x1, double y1) {
    canvas.fill_polygon({x0, y0, x1, y0, x1, y1, x0, y1}, colours.paper);
  };
  const auto a = camera.project(s.frame.lo), b = camera.project(s.frame.hi);
  const PixelFrame frame = picture_frame(s);
  const double x0 = std::max(std::min(a->x, b->x), frame.x),
               x1 = std::min(std::max(a->x, b->x), frame.x + frame.width),
               y0 = std::max(std::min(a->y, b->y), frame.y),
               y1 = std::min(std::max(a->y, b->y), frame.y + frame.height);
  blank(0, 0, s.width, y0), blank(0, y1, s.width, s.height);
  blank(0, 0, x0, s.height), blank(x1, 0, s.width, s.height);
}

void draw_title(Canvas& canvas, const Scene& s, const Paper& paper, const PaperColours& colours) {
  constexpr double size = 19;
  const double room = paper.width - 2 * margin - 60,    // the axes stand beside it
      needed = 1.1 * canvas.text_width(s.title, size);  // bold
  canvas.text(margin, 18, s.title, size * std::clamp(room / needed, 0.6, 1.0), colours.ink,
              Canvas::Anchor::left, true);
}

}  // namespace

PixelFrame picture_frame(const Scene& s) {
  const double scale = Paper(s).scale, side = scale * margin,
               top = s.title.empty() ? side : side + scale * 36,
               below = scale * ((shown_quantities(s).empty() ? margin + 12 : legend_height + 8) +
                                (s.note.empty() ? 0 : 22));
  return {side, top, std::max(8.0, s.width - 2 * side), std::max(8.0, s.height - top - below)};
}

Image annotated(const Scene& s, const Camera& camera, const Image& image) {
  const PaperColours colours = paper_colours(s.dark);
  Canvas canvas(image);
  if (s.flat) cut_square(canvas, s, camera, colours);
  const Paper paper(s);
  const PixelFrame frame = picture_frame(s);
  canvas.enlarge(paper.scale);
  if (!s.title.empty()) draw_title(canvas, s, paper, colours);
  if (!s.note.empty())
    canvas.text(margin, (frame.y + frame.height) / paper.scale + 4, s.note, 13, colours.faint);
  draw_marks(canvas, s, paper, camera, colours);
  draw_legends(canvas, s, paper, colours);
  draw_scale_bar(canvas, s, paper, camera, colours);
  draw_axes(canvas, paper, camera, colours);
  return canvas.image();
}

}  // namespace dunefield
