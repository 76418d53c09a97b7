#include <tests/support/thin_assemblies.hpp>

#include <cmath>
#include <numbers>
#include <random>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/edges.hpp>
#include <dunefield/geometry/files/aerofoil.hpp>
#include <dunefield/geometry/folds.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/query/sampling.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/dual/sharp_lines.hpp>
#include <dunefield/mesh/octree/solid_field.hpp>
#include <dunefield/mesh/wall_triangles.hpp>

namespace dunefield {
namespace {

constexpr double degree = std::numbers::pi / 180, leaf = 0.02, smallest = 0.01;
const Vec3 middle{0, 0, 1.4};

class Dice {
 public:
  explicit Dice(unsigned seed) : random_(seed) {}
  /// Evenly between two numbers; by hand, since the library's distributions differ.
  double between(double a, double b) {
    return a + (b - a) * static_cast<double>(random_() >> 8) / static_cast<double>(1 << 24);
  }
  int one_of(int n) { return static_cast<int>(between(0, n)); }
  bool coin() { return random_() >> 31; }

 private:
  std::mt19937 random_;
};

/// A sheet through a grid of points, its diagonals as the dice fall.
void add_sheet(Surface& s, const std::string& part, const std::vector<std::vector<Vec3>>& grid,
               Dice& dice) {
  Surface sheet;
  sheet.part_names = {part};
  const int n = static_cast<int>(grid[0].size());
  for (const auto& row : grid) sheet.points.insert(sheet.points.end(), row.begin(), row.end());
  for (int i = 0; i + 1 < static_cast<int>(grid.size()); ++i)
    for (int j = 0; j + 1 < n; ++j) {
      const int a = i * n + j, b = a + 1, c = a + n + 1, d = a + n;
      if (dice.coin())
        sheet.triangles.push_back({a, b, c}), sheet.triangles.push_back({a, c, d});
      else
        sheet.triangles.push_back({a, b, d}), sheet.triangles.push_back({b, c, d});
    }
  sheet.part_of.assign(sheet.triangles.size(), 0);
  append(s, sheet);
}

struct Element {
  double chord, span, thickness, camber, sweep, twist, arch, incidence;
  Vec3 nose;
  bool sheets, blunt;
};

/// @param side 1: upper, -1: lower
Vec3 on_wing(const Element& e, double along, double across, int side) {
  // four-digit thickness (Jacobs, Ward, Pinkerton 1933), its rear closed but where it is blunt
  const double x = along, rear = e.blunt ? 0.1015 : 0.1036;
  const double half = 5 * e.thickness *
                      (0.2969 * std::sqrt(x) - 0.126 * x - 0.3516 * x * x + 0.2843 * x * x * x -
                       rear * x * x * x * x);
  const double mean = 4 * e.camber * x * (1 - x);
  const double angle = e.incidence + e.twist * across * across;
  const Vec3 p{e.chord * x, 0, e.chord * (-mean + side * half)};
  return e.nose +
         Vec3{p.x * std::cos(angle) + p.z * std::sin(angle), 0,
              p.z * std::cos(angle) - p.x * std::sin(angle)} *
             1.0 +
         Vec3{e.sweep * std::abs(across) * e.span, 0.5 * across * e.span,
              e.arch * e.span * across * across};
}

void add_wing(Surface& s, const std::string& part, const Element& e, Dice& dice) {
  constexpr int along = 14;
  const int across = 8 + dice.one_of(10);
  const auto row = [&](double y, int side) {
    std::vector<Vec3> points;
    for (int i = 0; i <= along; ++i)
      points.push_back(on_wing(e, 0.5 * (1 - std::cos(std::numbers::pi * i / along)), y, side));
    return points;
  };
  if (!e.sheets) {
    std::vector<std::vector<Vec3>> rings;
    for (int j = 0; j <= across; ++j) {
      const double y = 2.0 * j / across - 1;
      std::vector<Vec3> ring = row(y, 1), lower = row(y, -1);
      if (!e.blunt) ring.pop_back();
      ring.insert(ring.end(), lower.rbegin(), lower.rend() - 1);
      rings.push_back(ring);
    }
    append(s, loft(part, rings));
    return;
  }
  for (const int side : {1, -1}) {
    std::vector<std::vector<Vec3>> grid;
    for (int j = 0; j <= across; ++j) {
      grid.push_back(row(2.0 * j / across - 1, side));
      for (Vec3& p : grid.back()) p += Vec3{0, 0, 3e-6 * dice.between(-1, 1)};
    }
    add_sheet(s, part, grid, dice);
  }
  if (e.thickness < 0.02) return;  // the tips stay open, narrower than a cell
  for (const double y : {-1.0, 1.0}) add_sheet(s, part, {row(y, 1), row(y, -1)}, dice);
}

std::string add_wings(Surface& s, Dice& dice, bool& crossing) {
  const int elements = 1 + dice.one_of(4);
  const bool sheets = dice.coin(), plates = dice.coin();
  Element e{dice.between(0.15, 0.4),
            dice.between(0.6, 1.3),
            dice.between(0.01, 0.12),
            dice.between(0, 0.06),
            dice.between(-0.2, 0.4),
            dice.between(-8, 8) * degree,
            dice.between(-0.05, 0.05),
            dice.between(-4, 12) * degree,
            middle,
            sheets,
            dice.coin()};
  const double span = e.span;
  std::string text = fmt::format("{} elements {} {:.1f} % thick", elements,
                                 sheets ? "of sheets" : "closed", 100 * e.thickness);
  for (int i = 0; i < elements; ++i) {
    e.span = span;
    add_wing(s, "element " + std::to_string(i), e, dice);
    const Vec3 tail = on_wing(e, 1, 0, 1);
    e.chord *= dice.between(0.4, 0.8), e.incidence += dice.between(5, 14) * degree;
    e.thickness = dice.between(0.01, 0.12);
    // a slot of one to three of the smallest cells
    e.nose = tail + Vec3{-0.02 * e.chord, 0, -dice.between(1, 3) * smallest - e.chord * 0.1};
  }
  crossing = plates;
  if (plates)
    for (const double y : {-0.5, 0.5}) {
      const double x0 = middle.x - 0.1, x1 = x0 + 0.7, z0 = middle.z - 0.3, z1 = middle.z + 0.2;
      add_sheet(
          s, "end plate",
          {{{x0, y * span, z0}, {x1, y * span, z0}}, {{x0, y * span, z1}, {x1, y * span, z1}}},
          dice);
    }
  return text + (plates ? ", end plates" : "");
}

std::string add_ragged_skin(Surface& s, Dice& dice) {
  const int n = 10 + dice.one_of(8);
  const double bulge = dice.between(-0.3, 0.3), twist = dice.between(-0.3, 0.3);
  std::vector<std::vector<Vec3>> grid;
  for (int i = 0; i <= n; ++i) {
    std::vector<Vec3> row;
    for (int j = 0; j <= n; ++j) {
      const double edge = i == 0 || j == 0 || i == n || j == n ? dice.between(-0.3, 0.3) / n : 0,
                   x = (1.0 * i / n - 0.5) + edge, y = (1.0 * j / n - 0.5) + edge;
      row.push_back(middle + Vec3{0.8 * x, 0.9 * y, bulge * (x * x + y * y) + twist * x * y});
    }
    grid.push_back(row);
  }
  add_sheet(s, "skin", grid, dice);
  return "a ragged open skin";
}

std::string add_louvres(Surface& s, Dice& dice) {
  const int blades = 3 + dice.one_of(4);
  const double pitch = dice.between(0.04, 0.1), chord = dice.between(0.06, 0.2),
               slant = dice.between(-40, 40) * degree, span = dice.between(0.4, 0.9),
               thickness = dice.coin() ? 0 : dice.between(0.001, 0.012);
  const Vec3 way{chord * std::cos(slant), 0, chord * std::sin(slant)};
  for (int i = 0; i < blades; ++i) {
    const Vec3 a = middle + Vec3{0, -0.5 * span, pitch * (i - 0.5 * blades)}, b = a + way;
    if (thickness > 0)
      append(s, plate("blade", {a, b}, {0, span, 0}, thickness));
    else
      add_sheet(s, "blade", {{a, b}, {a + Vec3{0, span, 0}, b + Vec3{0, span, 0}}}, dice);
  }
  return fmt::format("{} louvres {:.1f} mm thick", blades, 1000 * thickness);
}

std::string add_slotted_plate(Surface& s, Dice& dice) {
  const int slots = 1 + dice.one_of(3);
  const double wide = dice.between(0.04, 0.08),
               thickness = dice.coin() ? 0 : dice.between(1, 8) / 1000;
  double z = middle.z - 0.3;
  const auto strip = [&](double x0, double x1, double z0, double z1) {
    if (thickness > 0)
      append(s, plate("plate", {{x0, 0, z0}, {x1, 0, z0}}, {0, 0, z1 - z0}, thickness));
    else
      add_sheet(s, "plate", {{{x0, 0, z0}, {x1, 0, z0}}, {{x0, 0, z1}, {x1, 0, z1}}}, dice);
  };
  for (int i = 0; i < slots; ++i) {
    const double high = dice.between(0.06, 0.15);
    strip(-0.3, 0.3, z, z + high), z += high;
    strip(-0.3, -0.2, z, z + wide), strip(0.2, 0.3, z, z + wide), z += wide;
  }
  strip(-0.3, 0.3, z, z + 0.1);
  return fmt::format("a plate {:.1f} mm thick with {} slots", 1000 * thickness, slots);
}

}  // namespace

ThinAssembly thin_assembly(unsigned seed) {
  Dice dice(seed * 7919 + 13);
  ThinAssembly a;
  bool crossing = false;
  const int kind = static_cast<int>(seed % 5);
  if (kind < 2) a.what = add_wings(a.surface, dice, crossing);
  if (kind == 2) a.what = add_ragged_skin(a.surface, dice);
  if (kind == 3) a.what = add_louvres(a.surface, dice);
  if (kind == 4) a.what = add_slotted_plate(a.surface, dice), crossing = true;
  for (const Vec3& axis : {Vec3{1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}})
    rotate(a.surface, middle, axis, dice.between(-25, 25) * degree);
  if (!crossing) {
    std::size_t open = 0, all = 0;
    EdgeTable(a.surface).for_each([&](int, int, auto uses) { ++all, open += uses.size() == 1; });
    const bool skins = kind >= 2 && open > 0;
    a.both_sides = (skins ? 2 : 1) * total_area(a.surface);
  }
  a.on_body = seed / 5 % 2 == 1;
  if (a.on_body) {
    append(a.surface, rounded_box("body", Box{{-0.5, -0.5, 0.5}, {0.9, 0.5, 0.9}}, 0.08, 4));
    for (const double y : {-0.2, 0.2})
      append(a.surface, plate("stay", {{0.05, y, 0.8}, {0.15, y, 0.8}}, {0, 0.02, 0.6}, 0.004));
    a.both_sides = 0, a.what += ", on a body";
  }
  return a;
}

MeshOptions thin_mesh_options() {
  MeshOptions o;
  o.surface_size = leaf, o.smallest_size = smallest, o.edge_size = smallest;
  o.cells_per_turn = 20, o.gap_cells = 3, o.thin_cells = 1.5, o.slot_halvings = 1,
  o.leading_halvings = 1;
  o.largest_size = 0.32;
  o.layers.count = 5, o.layers.growth = 1.4, o.layers.total_leaves = 0.7;
  return o;
}

Box thin_tunnel() { return {{-1.6, -1.6, 0}, {2.2, 1.6, 2.6}}; }

namespace {

/// Lines on which the surface ends, or is sharp.
Surface rim_lines(const Surface& s) {
  Surface lines;
  EdgeTable(s).for_each([&](int low, int high, auto uses) {
    if (uses.size() == 1) add_line(lines, s.points[at(low)], s.points[at(high)]);
  });
  for (const Fold& f : folds_of(s, sharp_angle, 3.2))
    add_line(lines, s.points[at(f.low)], s.points[at(f.high)]);
  return lines;
}

}  // namespace

ThinMeasures measure_thin(const ThinAssembly& a, const MeshResult& result) {
  const Surface& s = a.surface;
  const VolumeMesh& m = result.mesh;
  const WallTriangles walls = vehicle_triangles(m, false);
  const NearestTree wall(walls.surface), surface(s), rims(rim_lines(s));
  const RayScene mesh_rays(walls.surface);
  const SolidField solid(s, {}, 0);
  constexpr double off = 1e-5;
  ThinMeasures out;
  constexpr std::size_t count = 60'000;
  out.area = total_area(s);
  const double each = out.area / count;
  for (const SurfaceSample& p : sample_surface(s, count)) {
    const Vec3 n = unit(s.area_vector(at(p.triangle)));
    if (p.point.z < 1.0 && a.on_body) continue;  // stays run into the body
    if (solid.inside(p.point + n * off, 0) && solid.inside(p.point - n * off, 0)) continue;
    const auto near = wall.nearest(p.point, 10 * leaf);
    if (near.triangle < 0 || near.distance > 0.5 * smallest)
      out.missing += each, out.place = p.point;
    if (rims.within(p.point, smallest)) continue;
    if (!mesh_rays.blocked(p.point + n * smallest, p.point - n * smallest))
      out.through += each, out.place = p.point;
  }
  double area = 0;
  for (std::size_t t = 0; t < walls.surface.size(); ++t) {
    const double own = norm(walls.surface.area_vector(t));
    area += own;
    const Vec3 c = walls.surface.centroid(t);
    if (a.on_body && c.z < 1.0) continue;
    if (!surface.within(c, 0.5 * smallest)) out.too_much += own, out.place = c;
  }
  if (a.both_sides > 0) out.area_ratio = area / a.both_sides;
  for (const NarrowGap& g : result.gaps)
    if (g.closed && g.width / smallest > out.glued)
      out.glued = g.width / smallest, out.place = g.place;
  return out;
}

}  // namespace dunefield
