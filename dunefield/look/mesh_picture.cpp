#include <dunefield/look/mesh_picture.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/look/vehicle_view.hpp>
#include <dunefield/mesh/section.hpp>
#include <dunefield/mesh/tunnel.hpp>
#include <dunefield/mesh/wall_triangles.hpp>

namespace dunefield {
namespace {

constexpr Colour paper{1, 1, 1}, ink{0.16, 0.17, 0.20}, faint{0.55, 0.57, 0.60},
    skin{0.86, 0.85, 0.80}, solid_grey{0.80, 0.80, 0.79}, air{0.93, 0.96, 0.97},
    layer{0.98, 0.91, 0.72}, warning_red{0.85, 0.10, 0.12}, bar_blue{0.20, 0.45, 0.60};
constexpr int width = 1280, height = 800;

double distance_to_segment(const Vec3& p, const Vec3& a, const Vec3& b) {
  const Vec3 ab = b - a;
  const double t = std::clamp(dot(p - a, ab) / std::max(norm2(ab), 1e-30), 0.0, 1.0);
  return norm(p - a - ab * t);
}

struct CutCell {
  std::vector<Vec3> outline;
  bool at_wall;
};

void draw_cells(Canvas& canvas, const std::vector<CutCell>& cells, const Box& window,
                const PixelFrame& frame) {
  const double scale = std::min(frame.width / window.size().x, frame.height / window.size().z);
  const double x0 = frame.x + 0.5 * (frame.width - scale * window.size().x),
               y0 = frame.y + 0.5 * (frame.height + scale * window.size().z);
  const auto to_x = [&](double x) { return x0 + (x - window.lo.x) * scale; };
  const auto to_y = [&](double z) { return y0 - (z - window.lo.z) * scale; };
  canvas.fill_polygon({to_x(window.lo.x), to_y(window.lo.z), to_x(window.hi.x), to_y(window.lo.z),
                       to_x(window.hi.x), to_y(window.hi.z), to_x(window.lo.x), to_y(window.hi.z)},
                      solid_grey);
  std::vector<std::vector<double>> outlines;
  for (const CutCell& c : cells) {
    const std::vector<Vec3> corners = within(c.outline, window);
    if (corners.size() < 3) continue;
    std::vector<double> p;
    for (const Vec3& x : corners) p.push_back(to_x(x.x)), p.push_back(to_y(x.z));
    canvas.fill_polygon(p, c.at_wall ? layer : air);
    outlines.push_back(std::move(p));
  }
  for (const auto& p : outlines)
    for (std::size_t i = 0; i + 1 < p.size(); i += 2)
      canvas.line(p[i], p[i + 1], p[(i + 2) % p.size()], p[(i + 3) % p.size()], 0.6, ink);
}

std::string number(double v) {
  return std::abs(v) >= 10 ? fmt::format("{:.0f}", v) : fmt::format("{:.3g}", v);
}

/// One measure: a bar for each class, its height by the logarithm of the count.
void draw_histogram(Canvas& canvas, const MeasureSummary& s, const PixelFrame& f) {
  canvas.text(f.x, f.y, s.name + (s.unit.empty() ? "" : " [" + s.unit + "]"), 15, ink,
              Canvas::Anchor::left, true);
  canvas.text(
      f.x + f.width, f.y + 2,
      fmt::format("worst {}, {} beyond {}", number(s.worst_value()), s.beyond, number(s.limit)), 13,
      s.beyond ? warning_red : ink, Canvas::Anchor::right);
  const double top = f.y + 46, floor = f.y + f.height - 22,
               step = f.width / static_cast<double>(s.classes.size());
  const double most = std::log10(1.0 + static_cast<double>(std::max<std::int64_t>(1, s.count)));
  for (std::size_t k = 0; k < s.classes.size(); ++k) {
    const double share = std::log10(1.0 + static_cast<double>(s.classes[k])) / most,
                 x = f.x + step * static_cast<double>(k);
    const double lower = k == 0 ? -1e300 : s.steps[k - 1];
    const bool bad = lower >= s.limit;
    const double y = floor - share * (floor - top);
    canvas.fill_polygon({x + 2, floor, x + step - 2, floor, x + step - 2, y, x + 2, y},
                        bad ? warning_red : bar_blue);
    if (s.classes[k] > 0)
      canvas.text(x + step / 2, y - 17,
                  s.classes[k] >= 100000
                      ? fmt::format("{:.0f}k", 1e-3 * static_cast<double>(s.classes[k]))
                      : fmt::format("{}", s.classes[k]),
                  11, ink, Canvas::Anchor::centre);
    if (k < s.steps.size())
      canvas.text(x + step, floor + 4, number(s.steps[k]), 11, faint, Canvas::Anchor::centre);
  }
  canvas.line(f.x, floor, f.x + f.width, floor, 1, ink);
}

}  // namespace

void draw_mesh_surface(const std::filesystem::path& file, const VolumeMesh& m, const MeshQuality& q,
                       bool mirror, const std::string& title) {
  const WallTriangles wall = vehicle_triangles(m, mirror);
  if (wall.surface.size() == 0) throw InputError("there is no vehicle to draw", file.string(), "");
  Canvas canvas(width, height, paper);
  const VehicleView view(wall.surface, {-1.0, -0.85, 0.5}, {32, 64, width - 64.0, height - 160.0});
  const auto a = view.project({0, 0, 0}), b = view.project({0, 0, 1});
  const double pixel = 1 / std::hypot(a.x - b.x, a.y - b.y);
  const int half = static_cast<int>(m.points.size());
  view.draw(canvas, wall.surface, paper, [&](int t, const Vec3& x) {
    const int f = wall.face_of[at(t)], first = m.face_start[at(f)],
              n = m.face_start[at(f) + 1] - first;
    const Vec3 own = wall.surface.triangles[at(t)][0] >= half ? Vec3{x.x, -x.y, x.z} : x;
    double off = 1e300;
    for (int k = 0; k < n; ++k)
      off =
          std::min(off, distance_to_segment(own, m.points[at(m.face_points[at(first + k)])],
                                            m.points[at(m.face_points[at(first + (k + 1) % n)])]));
    const double share = std::clamp(off / (0.9 * pixel), 0.25, 1.0);
    return Colour{skin.r * share, skin.g * share, skin.b * share};
  });
  canvas.text(32, 22, title, 20, ink, Canvas::Anchor::left, true);
  std::int64_t beyond = 0;
  for (const MeasureSummary& s : q.summary) {
    beyond += s.beyond;
    for (const MeasuredPlace& w : s.worst)
      if (w.value > s.limit) {
        // Of a half model the mirrored side is the one in view.
        const auto at_place = view.project({w.place.x, mirror ? -w.place.y : w.place.y, w.place.z});
        canvas.ring(at_place.x, at_place.y, 9, warning_red);
      }
  }
  canvas.text(32, height - 62,
              fmt::format("{} cells, {} faces, {} points", q.cells, q.faces, q.points), 14, ink);
  canvas.text(32, height - 40,
              beyond ? fmt::format("red rings: the worst of {} places beyond the limits", beyond)
                     : "no place beyond the limits",
              14, beyond ? warning_red : ink);
  canvas.write_png(file);
}

void draw_mesh_cut(const std::filesystem::path& file, const VolumeMesh& m, double y, double leaf,
                   const std::string& title) {
  Box vehicle;
  Vec3 nose{1e300, y, 0};
  for (const Boundary& p : m.boundaries)
    if (p.kind == BoundaryKind::part)
      for (int f = p.first; f < p.first + p.count; ++f) {
        vehicle.include(m.face_centre[at(f)]);
        if (std::abs(m.face_centre[at(f)].y - y) < leaf && m.face_centre[at(f)].x < nose.x)
          nose = m.face_centre[at(f)];
      }
  if (vehicle.empty()) throw InputError("there is no vehicle to draw", file.string(), "");
  std::vector<char> at_wall(at(m.cells), 0);
  for (const Boundary& p : m.boundaries)
    for (int f = p.first; p.kind == BoundaryKind::part && f < p.first + p.count; ++f)
      at_wall[at(m.cell_below[at(f)])] = 1;
  const double length = characteristic_length(vehicle);
  const Box window{{vehicle.lo.x - 0.12 * length, y,
                    flies(vehicle) ? vehicle.lo.z - 0.18 * length : -0.01 * length},
                   {vehicle.hi.x + 0.3 * length, y, vehicle.hi.z + 0.18 * length}};
  const CellFaces rows = faces_of_cells(m);
  const Plane plane{{0, y, 0}, {0, -1, 0}};
  std::vector<CutCell> cells;
  for (const int c : cut_cells(m, plane))
    cells.push_back({cell_section(m, rows, c, plane), at_wall[at(c)] != 0});
  Canvas canvas(width, height, paper);
  canvas.text(32, 22, title, 20, ink, Canvas::Anchor::left, true);
  constexpr double split = 820;
  draw_cells(canvas, cells, window, {32, 64, split - 32, height - 130.0});
  const double span = 5 * leaf;
  draw_cells(canvas, cells,
             Box{{nose.x - 0.6 * span, y, nose.z - span}, {nose.x + 0.6 * span, y, nose.z + span}},
             {split + 24, 64, width - split - 56, height - 130.0});
  canvas.text(32, height - 46,
              fmt::format("cut at y = {:.2f} m; grey: solid, yellow: cells at the wall", y), 14,
              ink);
  canvas.text(width - 32, height - 46, fmt::format("at the nose, {:.3g} mm high", 2000 * span), 14,
              ink, Canvas::Anchor::right);
  canvas.write_png(file);
}

void draw_mesh_quality(const std::filesystem::path& file, const MeshQuality& q,
                       const std::string& title) {
  Canvas canvas(width, height, paper);
  canvas.text(32, 22, title, 20, ink, Canvas::Anchor::left, true);
  for (std::size_t i = 0; i < q.summary.size(); ++i) {
    const int column = static_cast<int>(i) % 2, row = static_cast<int>(i) / 2;
    draw_histogram(canvas, q.summary[i], {32.0 + 624 * column, 70.0 + 232 * row, 592, 214});
  }
  canvas.text(32, height - 28,
              "heights by the logarithm of the count, which stands above; red: beyond the "
              "limit",
              13, faint);
  canvas.write_png(file);
}

}  // namespace dunefield
