#include <dunefield/mesh/planar/section_mesher.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/mesh_findings.hpp>
#include <dunefield/mesh/planar/planar_cells.hpp>
#include <dunefield/mesh/planar/small_cells.hpp>
#include <dunefield/mesh/tunnel.hpp>

namespace dunefield {
namespace {

constexpr int most_lattices = 6;
constexpr double narrowest_wedge = 2;  // smallest faces
// surface sizes by which the squares move when a mesh has failed, and before the first one
const Vec3 lattice_step{0.3819660113, 0, 0.2360679775}, first_shift{0.0137, 0, 0.0071};

/// Where the front is, and how large squares may be there.
struct SizeSource {
  Vec3 place;
  double size;
};

std::vector<SizeSource> sources_of(const std::vector<WallColumns>& walls) {
  std::vector<SizeSource> all;
  for (const WallColumns& w : walls)
    for (std::size_t i = 0; i < w.rays.size(); ++i) {
      const Vec3 a = w.front(i), b = w.front(w.next(i));
      const double face = w.wall.spacing(w.rays[i].point),
                   size = std::clamp(norm(b - a), 0.7 * face, 2 * face);
      all.push_back({(a + b) * 0.5, size});
    }
  return all;
}

/// How large squares may be: as the front's faces there, and growing with the distance.
class SquareSizes {
 public:
  SquareSizes(const std::vector<SizeSource>& sources, const MeshOptions& o)
      : sources_(sources), options_(o) {
    for (std::size_t first = 0; first < sources.size(); first += group) {
      Group g;
      for (std::size_t i = first; i < std::min(first + group, sources.size()); ++i)
        g.box.include(sources[i].place), g.least = std::min(g.least, sources[i].size);
      groups_.push_back(g);
    }
  }

  double least() const {
    double size = options_.largest_size;
    for (const Group& g : groups_) size = std::min(size, g.least);
    for (const RefinedBox& b : options_.boxes) size = std::min(size, b.size);
    return size;
  }

  bool too_large(const Vec3& centre, double edge) const {
    const double reach = 0.71 * edge;
    for (const RefinedBox& b : options_.boxes)
      if (edge > 1.001 * b.size && centre.x > b.box.lo.x - reach && centre.x < b.box.hi.x + reach &&
          centre.z > b.box.lo.z - reach && centre.z < b.box.hi.z + reach)
        return true;
    const auto too_near = [&](double size, double distance) {
      return edge > 1.001 * (size + std::max(0.0, distance - reach) / options_.spread);
    };
    for (std::size_t g = 0; g < groups_.size(); ++g) {
      const Box& box = groups_[g].box;
      const Vec3 nearest = max(box.lo, min(box.hi, centre));
      if (!too_near(groups_[g].least, norm(nearest - centre))) continue;
      for (std::size_t i = g * group; i < std::min((g + 1) * group, sources_.size()); ++i)
        if (too_near(sources_[i].size, norm(sources_[i].place - centre))) return true;
    }
    return false;
  }

 private:
  static constexpr std::size_t group = 32;
  struct Group {
    Box box;
    double least = 1e300;
  };
  const std::vector<SizeSource>& sources_;
  const MeshOptions& options_;
  std::vector<Group> groups_;
};

Quadtree squares(const Box& tunnel, const SquareSizes& sizes, const MeshOptions& o,
                 const Vec3& shift) {
  double root = o.surface_size;
  while (2 * root <= o.largest_size) root *= 2;
  int levels = 0;
  while (root / (1 << levels) > 1.001 * sizes.least() && levels < 24) ++levels;
  const auto count = [&](double length) {
    return std::max(1, static_cast<int>(std::ceil(length / root - 1e-6)));
  };
  const int nx = count(tunnel.size().x), nz = count(tunnel.size().z);
  constexpr double most = 1 << 30;
  if (std::max(nx, nz) * std::pow(2.0, levels) > most)
    throw InputError("the smallest size is too small for a tunnel of this size", "mesh",
                     "raise it or shorten the tunnel");
  Vec3 origin = tunnel.lo;
  origin.x -= 0.5 * (nx * root - tunnel.size().x), origin.y = 0;
  if (!o.road) origin.z -= 0.5 * (nz * root - tunnel.size().z) + shift.z * o.surface_size;
  origin.x += (shift.x + o.lattice_shift.x) * o.surface_size;
  Quadtree tree(origin, root, levels, nx, nz);
  tree.refine([&](const Vec3& centre, double edge) { return sizes.too_large(centre, edge); });
  return tree;
}

/// Draws the cells out from one side of the tunnel to the other.
class Extrusion {
 public:
  Extrusion(const PlanarCells& cells, const Box& tunnel, const std::vector<std::string>& parts)
      : c_(cells), near_(tunnel.lo.y), far_(tunnel.hi.y), parts_(parts) {}

  VolumeMesh run(bool road) {
    number_points();
    mesh_.cells = c_.cells;
    mesh_.face_start = {0};
    add_inner_faces();
    add_sides(PlanarSide::inflow, "inflow", BoundaryKind::inflow);
    add_sides(PlanarSide::outflow, "outflow", BoundaryKind::outflow);
    add_ends();
    add_sides(PlanarSide::floor, road ? "road" : "floor",
              road ? BoundaryKind::road : BoundaryKind::roof);
    add_sides(PlanarSide::roof, "roof", BoundaryKind::roof);
    for (std::size_t p = 0; p < parts_.size(); ++p)
      add_boundary(boundary_of_part(static_cast<int>(p)), parts_[p], BoundaryKind::part);
    return std::move(mesh_);
  }

 private:
  /// Each point in use becomes two, on the near and on the far side.
  void number_points() {
    point_.assign(c_.points.size(), -1);
    for (const PlanarEdge& e : c_.edges)
      for (const int p : {e.from, e.to})
        if (point_[at(p)] < 0) {
          point_[at(p)] = static_cast<int>(mesh_.points.size());
          for (const double y : {near_, far_})
            mesh_.points.push_back({c_.points[at(p)].x, y, c_.points[at(p)].z});
        }
  }

  /// The area vector points to the right of the way from a to b.
  void add_face(int a, int b, int below) {
    const int from = point_[at(a)], to = point_[at(b)];
    mesh_.face_points.insert(mesh_.face_points.end(), {from, from + 1, to + 1, to});
    mesh_.face_start.push_back(static_cast<int>(mesh_.face_points.size()));
    mesh_.cell_below.push_back(below);
  }

  void add_inner_faces() {
    std::vector<std::pair<std::pair<int, int>, int>> order;
    for (std::size_t i = 0; i < c_.edges.size(); ++i)
      if (const PlanarEdge& e = c_.edges[i]; e.right >= 0)
        order.push_back({std::minmax(e.left, e.right), static_cast<int>(i)});
    std::sort(order.begin(), order.end());
    for (const auto& [cells, i] : order) {
      const PlanarEdge& e = c_.edges[at(i)];
      if (e.left < e.right)
        add_face(e.from, e.to, e.left);
      else
        add_face(e.to, e.from, e.right);
      mesh_.cell_above.push_back(cells.second);
    }
  }

  void add_boundary(int number, const std::string& name, BoundaryKind kind) {
    Boundary boundary{name, kind, mesh_.faces(), 0};
    for (const PlanarEdge& e : c_.edges)
      if (e.right == -1 - number) add_face(e.from, e.to, e.left), ++boundary.count;
    mesh_.boundaries.push_back(boundary);
  }
  void add_sides(PlanarSide side, const std::string& name, BoundaryKind kind) {
    add_boundary(static_cast<int>(side), name, kind);
  }

  /// The cells' ends: anticlockwise seen with x to the right and z up points to -y.
  void add_ends() {
    const std::vector<std::vector<int>> corners = corners_of_cells(c_);
    for (const int far : {0, 1}) {
      mesh_.boundaries.push_back(
          {far ? "right wall" : "left wall", BoundaryKind::side, mesh_.faces(), c_.cells});
      for (int cell = 0; cell < c_.cells; ++cell) {
        const std::vector<int>& own = corners[at(cell)];
        for (std::size_t k = 0; k < own.size(); ++k)
          mesh_.face_points.push_back(point_[at(own[far ? own.size() - 1 - k : k])] + far);
        mesh_.face_start.push_back(static_cast<int>(mesh_.face_points.size()));
        mesh_.cell_below.push_back(cell);
      }
    }
  }

  const PlanarCells& c_;
  double near_, far_;
  const std::vector<std::string>& parts_;
  VolumeMesh mesh_;
  std::vector<int> point_;
};

LayerReport report_of(const std::vector<WallColumns>& walls, const std::vector<std::string>& parts,
                      double depth, int cells) {
  LayerReport report;
  report.cells = cells;
  for (std::size_t p = 0; p < parts.size(); ++p) {
    PartLayers own;
    own.part = parts[p];
    double thick = 0, first = 0, step = 0, height = 0;
    for (const WallColumns& w : walls)
      for (std::size_t i = 0; i < w.rays.size(); ++i) {
        const std::size_t point = w.rays[i].point;
        if (w.in_fan(i) || w.wall.part_of[point] != static_cast<int>(p)) continue;
        const double length = norm(w.wall.towards_next(point)), area = length * depth;
        const std::vector<double> h = w.heights(i);
        const double last = h.back() - h[h.size() - 2];
        own.area += area;
        thick += area * (last > 0.4 * length),
            step += area * (last > length / 3 && last < 1.5 * length);
        first += area * (std::abs(h[1] / w.first_height - 1) < 0.2), height += area * h[1];
      }
    if (!(own.area > 0)) continue;
    own.full_share = 1, own.thick_share = thick / own.area, own.first_share = first / own.area;
    own.step_share = step / own.area, own.mean_first_height = height / own.area;
    report.parts.push_back(own);
  }
  return report;
}

/// Makes layers thinner where their cells are folded.
void thin_folded_columns(const VolumeMesh& m, std::vector<WallColumns>& walls) {
  std::vector<char> folded(at(m.cells), 0);
  const auto check = [&](int f, int cell, double sign) {
    const double height =
        sign * dot(m.face_area[at(f)], m.face_centre[at(f)] - m.cell_centre[at(cell)]);
    if (!(height > 0)) folded[at(cell)] = 1;
  };
  for (int f = 0; f < m.faces(); ++f) {
    check(f, m.cell_below[at(f)], 1);
    if (f < m.interior_faces()) check(f, m.cell_above[at(f)], -1);
  }
  std::size_t cell = 0;
  for (WallColumns& w : walls)
    for (std::size_t i = 0; i < w.rays.size(); ++i, cell += at(w.layers)) {
      const auto first = folded.begin() + static_cast<std::ptrdiff_t>(cell);
      if (std::find(first, first + w.layers, 1) == first + w.layers) continue;
      for (Ray* ray : {&w.rays[i], &w.rays[w.next(i)]}) ray->thickness *= 0.6;
    }
}

MeshResult mesh_on_squares(std::vector<WallColumns>& walls, const std::vector<std::string>& parts,
                           const Box& tunnel, const MeshOptions& o, const Vec3& shift,
                           const Progress& progress) {
  MeshResult result;
  const std::vector<SizeSource> sources = sources_of(walls);
  const Quadtree tree = squares(tunnel, SquareSizes(sources, o), o, shift);
  progress.check();
  progress("cells", 0.5);
  const PlanarCells cells = planar_cells(walls, tree);
  result.merged = cells.merged, result.tunnel = tree.box();
  result.tunnel.lo.y = tunnel.lo.y, result.tunnel.hi.y = tunnel.hi.y;
  result.mesh = Extrusion(cells, tunnel, parts).run(o.road);
  result.mesh.derive();
  result.layers = report_of(walls, parts, tunnel.size().y, cells.layer_cells);
  result.quality = measure_quality(result.mesh);
  if (!result.quality.sound()) {
    const Vec3& p = result.quality.smallest_volume_at;
    thin_folded_columns(result.mesh, walls);
    throw MeshError(
        fmt::format("the section's mesh fails its own checks near x = {:.4f}, z = {:.4f} m "
                    "({} pyramids not positive)",
                    p.x, p.z, result.quality.negative_pyramids),
        "mesh", "use a smaller size there");
  }
  return result;
}

}  // namespace

MeshResult build_section_mesh(const Surface& vehicle, const Box& tunnel, const MeshOptions& o,
                              const Progress& progress) {
  const auto start = std::chrono::steady_clock::now();
  Findings findings;
  progress("outline", 0);
  Outline outline = outline_at(vehicle, tunnel.centre().y, findings);
  fill_wedges(outline, narrowest_wedge * std::max(o.smallest_size, o.surface_size / 16), findings);
  const Box body = outline.bounds();
  if (body.lo.x <= tunnel.lo.x || body.hi.x >= tunnel.hi.x || body.hi.z >= tunnel.hi.z ||
      (!o.road && body.lo.z <= tunnel.lo.z))
    throw InputError("the section reaches out of the tunnel", "section",
                     "make the tunnel larger, or check place and clearance");
  if (o.road && body.lo.z <= 0)
    throw InputError("the section reaches the road, where the air between would end", "section",
                     "cut beside the wheels, raise it, or write ground = false");
  progress("layers", 0.2);
  std::vector<WallColumns> walls = wall_columns(wall_lines(outline, o, o.road), o.layers, o.road);
  Vec3 shift = first_shift;
  for (int lattice = 1;; ++lattice) try {
      MeshResult result = mesh_on_squares(walls, outline.part_names, tunnel, o, shift, progress);
      findings.append(result.findings);
      result.findings = std::move(findings);
      report_quality(result.quality, result.findings);
      result.seconds =
          std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
      progress("measures", 1);
      return result;
    } catch (const MeshError&) {
      if (lattice == most_lattices) throw;
      shift += lattice_step;
    }
}

}  // namespace dunefield
