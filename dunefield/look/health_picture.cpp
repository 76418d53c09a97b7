#include <dunefield/look/health_picture.hpp>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/look/vehicle_view.hpp>

namespace dunefield {
namespace {

constexpr Colour paper{1, 1, 1}, ink{0.16, 0.17, 0.20}, skin{0.80, 0.81, 0.82},
    tyre{0.42, 0.44, 0.48};
constexpr Colour open_red{0.85, 0.10, 0.12}, join_violet{0.55, 0.15, 0.70},
    cross_orange{0.95, 0.55, 0.05}, turned_blue{0.10, 0.35, 0.85}, stray_green{0.05, 0.60, 0.35},
    side_brown{0.50, 0.33, 0.12};

void dot_at(Canvas& canvas, const VehicleView::Pixel& p, double radius, Colour c) {
  std::vector<double> xy;
  for (int i = 0; i < 8; ++i) {
    const double a = 0.7853981633974483 * i;
    xy.push_back(p.x + radius * std::cos(a)), xy.push_back(p.y + radius * std::sin(a));
  }
  canvas.fill_polygon(xy, c);
}

void mark(Canvas& canvas, const VehicleView& view, const Surface& s, const HealthReport& r) {
  for (const Vec3& p : r.flipped_places) dot_at(canvas, view.project(p), 2.5, turned_blue);
  for (const Vec3& p : r.crossing_places) dot_at(canvas, view.project(p), 2, cross_orange);
  for (const Vec3& p : r.non_manifold_places) dot_at(canvas, view.project(p), 3, join_violet);
  for (const EdgeLoop& loop : r.loops)
    for (std::size_t i = 0; i + (loop.closed ? 0 : 1) < loop.points.size(); ++i) {
      const auto a = view.project(s.points[at(loop.points[i])]),
                 b = view.project(s.points[at(loop.points[(i + 1) % loop.points.size()])]);
      canvas.line(a.x, a.y, b.x, b.y, 2.5, open_red);
    }
  for (const StrayBit& bit : r.stray_bits) {
    const auto p = view.project(bit.centre);
    canvas.ring(p.x, p.y, 9, stray_green);
  }
  if (r.across.largest > 1e-3 * bounds(s).size().y) {
    const auto p = view.project(r.across.place);
    canvas.ring(p.x, p.y, 14, side_brown);
  }
}

}  // namespace

void draw_health(const std::filesystem::path& file, const Surface& s, const HealthReport& r,
                 const std::vector<Wheel>& wheels, const std::string& title) {
  constexpr int width = 1280, height = 800;
  Canvas canvas(width, height, paper);
  canvas.text(32, 20, title, 20, ink, Canvas::Anchor::left, true);
  std::vector<char> turns(s.part_names.size(), 0);
  for (const Wheel& w : wheels)
    if (const int p = s.find_part(w.part); p >= 0) turns[at(p)] = 1;
  const struct {
    Vec3 from;
    PixelFrame frame;
    const char* name;
  } views[2] = {{{-1.0, -0.85, 0.5}, {40, 96, 580, 430}, "from the left in front, above"},
                {{1.0, 0.85, -0.45}, {660, 96, 580, 430}, "from the right behind, below"}};
  for (const auto& v : views) {
    const VehicleView view(s, v.from, v.frame);
    view.draw(canvas, s, paper,
              [&](int t, const Vec3&) { return turns[at(s.part_of[at(t)])] ? tyre : skin; });
    mark(canvas, view, s, r);
    canvas.text(v.frame.x, 64, v.name, 14, ink);
  }
  const struct {
    Colour colour;
    std::string text;
  } lines[] = {
      {open_red, fmt::format("{} open edges in {} loops", r.open_edges, r.loops.size())},
      {join_violet, fmt::format("{} edges with more than two facets", r.non_manifold_edges)},
      {turned_blue, fmt::format("{} facets inside out", r.flipped_facets)},
      {cross_orange,
       fmt::format("{} pairs of facets cross ({} within a piece)",
                   r.crossings_in_a_piece + r.crossings_between_pieces, r.crossings_in_a_piece)},
      {stray_green, fmt::format("{} stray bits", r.stray_bits.size())},
      {side_brown, fmt::format("sides differ by up to {:.1f} mm", 1000 * r.across.largest)},
      {tyre, fmt::format("{} wheels found", wheels.size())},
      {ink, fmt::format("{} facets there twice, {} slivers", r.doubled_facets, r.slivers)},
  };
  int row = 0;
  for (const auto& l : lines) {
    const int column = row / 4;
    const double x = 40 + 620 * column, y = 580 + 44 * (row % 4);
    dot_at(canvas, {x + 8, y + 9}, 8, l.colour);
    canvas.text(x + 28, y, l.text, 16, ink);
    ++row;
  }
  canvas.write_png(file);
}

}  // namespace dunefield
