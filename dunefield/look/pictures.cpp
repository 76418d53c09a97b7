#include <dunefield/look/pictures.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/look/vehicle_view.hpp>
#include <dunefield/mesh/section.hpp>
#include <dunefield/mesh/wall_triangles.hpp>

namespace dunefield {
namespace {

constexpr Colour paper{1, 1, 1}, ink{0.16, 0.17, 0.20}, solid_grey{0.80, 0.80, 0.79};
constexpr double header = 64, footer = 92;  // pixels above and below the picture proper

/// Mean of the face values around each point, weighted by area.
std::vector<double> point_values(const WallTriangles& wall,
                                 const std::vector<double>& boundary_value, int first) {
  std::vector<double> sum(wall.surface.points.size(), 0.0), weight(sum.size(), 0.0);
  for (std::size_t t = 0; t < wall.surface.size(); ++t) {
    const double a = norm(wall.surface.area_vector(t));
    for (const int p : wall.surface.triangles[t])
      sum[at(p)] += a * boundary_value[at(wall.face_of[t] - first)], weight[at(p)] += a;
  }
  for (std::size_t i = 0; i < sum.size(); ++i)
    if (weight[i] > 0) sum[i] /= weight[i];
  return sum;
}

/// Value at a point of a triangle from its corners' values.
double interpolate(const Surface& s, std::size_t t, const Vec3& x,
                   const std::vector<double>& value) {
  const Vec3 n = s.area_vector(t);
  const double total = norm2(n);
  if (!(total > 0)) return value[at(s.triangles[t][0])];
  double sum = 0;
  for (int k = 0; k < 3; ++k) {
    const Vec3 a = s.corner(t, (k + 1) % 3), b = s.corner(t, (k + 2) % 3);
    sum += value[at(s.triangles[t][at(k)])] * dot(0.5 * cross(a - x, b - x), n) / total;
  }
  return sum;
}

}  // namespace

void draw_surface(const std::filesystem::path& file, const VolumeMesh& mesh,
                  const std::vector<double>& boundary_value, const ColourScale& scale,
                  const View& view, bool mirror, const std::string& title) {
  const WallTriangles wall = vehicle_triangles(mesh, mirror);
  const int first = mesh.interior_faces();
  if (wall.surface.size() == 0) throw InputError("there is no vehicle to draw", file.string(), "");
  const std::vector<double> value = point_values(wall, boundary_value, first);
  Canvas canvas(view.width, view.height, paper);
  const VehicleView seen(wall.surface, view.from,
                         {40, header, view.width - 80.0, view.height - header - footer - 20});
  seen.draw(canvas, wall.surface, paper, [&](int t, const Vec3& x) {
    return scale.of(interpolate(wall.surface, at(t), x, value));
  });
  canvas.text(32, 22, title, 20, ink, Canvas::Anchor::left, true);
  canvas.legend(scale, 32, view.height - 80, 420);
  canvas.write_png(file);
}

void draw_slice_y(const std::filesystem::path& file, const VolumeMesh& mesh,
                  const std::vector<double>& cell_value, double y, const Box& frame,
                  const ColourScale& scale, const std::string& title) {
  constexpr int width = 1280;
  const double pixel = frame.size().x / (width - 64.0);
  const int inner = static_cast<int>(frame.size().z / pixel);
  const int height = inner + static_cast<int>(header + footer);
  Canvas canvas(width, height, paper);
  const auto to_x = [&](double x) { return 32 + (x - frame.lo.x) / pixel; };
  const auto to_y = [&](double z) { return header + inner - (z - frame.lo.z) / pixel; };
  canvas.fill_polygon({to_x(frame.lo.x), to_y(frame.lo.z), to_x(frame.hi.x), to_y(frame.lo.z),
                       to_x(frame.hi.x), to_y(frame.hi.z), to_x(frame.lo.x), to_y(frame.hi.z)},
                      solid_grey);
  const CellFaces rows = faces_of_cells(mesh);
  const Plane plane{{0, y, 0}, {0, -1, 0}};
  for (const int c : cut_cells(mesh, plane)) {
    std::vector<double> cut;
    for (const Vec3& p : within(cell_section(mesh, rows, c, plane), frame))
      cut.push_back(to_x(p.x)), cut.push_back(to_y(p.z));
    if (cut.size() >= 6) canvas.fill_polygon(cut, scale.of(cell_value[at(c)]));
  }
  canvas.line(to_x(frame.lo.x), to_y(0), to_x(frame.hi.x), to_y(0), 2, ink);
  canvas.text(32, 22, title, 20, ink, Canvas::Anchor::left, true);
  canvas.legend(scale, 32, height - 80, 420);
  canvas.text(width - 32, height - 46, fmt::format("cut at y = {:.2f} m, grey: solid", y), 14, ink,
              Canvas::Anchor::right);
  canvas.write_png(file);
}

}  // namespace dunefield
