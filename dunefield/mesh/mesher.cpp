#include <dunefield/mesh/mesher.hpp>

#include <chrono>
#include <utility>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/open_edges.hpp>
#include <dunefield/mesh/dual/cavities.hpp>
#include <dunefield/mesh/dual/chords.hpp>
#include <dunefield/mesh/dual/dents.hpp>
#include <dunefield/mesh/dual/lost.hpp>
#include <dunefield/mesh/dual/wall_faces.hpp>
#include <dunefield/mesh/layers/easing.hpp>
#include <dunefield/mesh/mesh_findings.hpp>
#include <dunefield/mesh/octree/sized_octree.hpp>
#include <dunefield/mesh/planar/section_mesher.hpp>
#include <dunefield/mesh/repair/mender.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// bounds the time; each one mends the octree where the last mesh failed
constexpr int most_rebuilds = 24;
constexpr int most_splitting = 6;  // of these; what is bad after them becomes solid
constexpr int most_gap_splits = 1;
constexpr int most_flat_rounds = 4;  // each finds ever fewer flat cells
constexpr double flat_cell = 0.15;   // volume over the cube of the smallest leaf around
constexpr double lowest_soundness = 1e-4;

/// Cells that the held points leave inverted or flat: the vertices to declare solid, and leaves to
/// split.
struct BadCells {
  std::vector<std::uint64_t> solid;
  std::vector<std::uint64_t> split_around;
};

/// @param flat_too whether flat cells count, too; the mender merges those that are left
BadCells find_bad_cells(const DualMesh& dual, const DualGrid& grid, double unit, bool flat_too) {
  BadCells bad;
  const CellFaces rows = faces_of_cells(dual.mesh);
  std::vector<char> is_bad(static_cast<std::size_t>(dual.mesh.cells), 0);
  const auto vertex_of = [&](std::size_t cell) -> const DualVertex& {
    return grid.vertices[at(dual.cell_vertex[cell])];
  };
  parallel_for(
      is_bad.size(),
      [&](std::size_t i) {
        double volume = 0;
        const double soundness = cell_soundness(dual.mesh, rows, static_cast<int>(i), &volume);
        const double cube = std::pow(vertex_of(i).smallest * unit, 3);
        is_bad[i] = !(soundness > lowest_soundness &&
                      (!flat_too || volume > flat_cell * cube || !dual.cell_hanging_crossed[i]));
      },
      256);
  for (std::size_t i = 0; i < is_bad.size(); ++i)
    if (is_bad[i])
      (dual.cell_hanging_crossed[i] ? bad.solid : bad.split_around).push_back(vertex_of(i).key);
  return bad;
}

/// The larger leaves around these vertices; all of them where they are alike.
std::vector<char> leaves_around(const Octree& octree, const DualGrid& grid,
                                const std::vector<std::uint64_t>& keys) {
  std::vector<char> flagged(octree.leaves().size(), 0);
  for (const auto key : keys) {
    const auto v = std::lower_bound(grid.vertices.begin(), grid.vertices.end(), key,
                                    [](const DualVertex& a, std::uint64_t k) { return a.key < k; });
    const auto edge = [&](int l) { return octree.leaves()[at(l)].edge(); };
    const bool alike =
        std::all_of(v->leaf.begin(), v->leaf.end(), [&](int l) { return edge(l) == v->smallest; });
    for (const int l : v->leaf)
      if (alike || edge(l) > v->smallest) flagged[at(l)] = 1;
  }
  return flagged;
}

/// Splits leaves with one point for two walls that face each other over a gap, which would be one
/// wall. @return false if there is none
bool split_gaps(Octree& octree, const DualMesh& dual, double finest) {
  constexpr double facing = -0.5, apart = 0.45;  // cosine of the normals; of the leaf
  if (!(finest > 0)) return false;
  std::vector<char> flagged(octree.leaves().size(), 0);
  for (const DualPoint& info : dual.point_info) {
    const double edge = octree.size(octree.leaves()[at(info.leaf)]);
    if (edge < 1.5 * finest) continue;
    const SolidField::Crossing* c = dual.crossings.data() + info.first_crossing;
    for (int i = 1; i < info.crossings; ++i)
      for (int j = 0; j < i; ++j) {
        const Vec3 way = c[i].point - c[j].point;
        if (dot(c[i].normal, c[j].normal) < facing && dot(way, c[j].normal) > apart * edge &&
            -dot(way, c[i].normal) > apart * edge)
          flagged[at(info.leaf)] = 1;
      }
  }
  if (!octree.split(flagged)) return false;
  octree.balance();
  return true;
}

/// The grid of an octree, its cavities closed if they are to be.
DualGrid closed_grid(const Octree& octree, const SolidField& solid, const MeshOptions& o,
                     const DualGrid& before, std::vector<Cavity>& cavities) {
  DualGrid grid = make_dual_grid(octree, solid, before);
  if (o.closed_opening > 0)
    cavities = close_cavities(octree, solid, o.closed_opening * o.surface_size, grid);
  return grid;
}

/// The dual of an octree, without inverted or flat cells: such are split away or taken as solid.
DualMesh sound_dual(Octree& octree, const SolidField& solid, const Surface& vehicle,
                    const MeshOptions& options, Findings& findings, const Progress& progress) {
  std::vector<std::uint64_t> declared_solid;
  std::vector<Cavity> cavities;
  DualGrid grid = closed_grid(octree, solid, options, {}, cavities);
  report_cavities(cavities, findings);
  std::vector<CutEdge> known;
  DualMesh dual;
  for (int round = 0;; ++round) {
    progress.check();
    progress("cells", 0.2 + 0.4 * round / most_rebuilds);
    dual = build_dual(octree, solid, grid, vehicle.part_names, options.half, declared_solid, known);
    if (round < most_gap_splits && split_gaps(octree, dual, gap_leaf(options))) {
      grid = closed_grid(octree, solid, options, grid, cavities);
      continue;
    }
    place_wall_points(dual, octree);
    const BadCells bad = find_bad_cells(dual, grid, octree.unit(), round < most_flat_rounds);
    if (bad.solid.empty() && bad.split_around.empty()) break;
    if (round == most_rebuilds) {
      const Vec3 p = octree.position(
          morton_position((bad.solid.empty() ? bad.split_around : bad.solid).front()));
      throw MeshError(
          fmt::format("{} cells stay inverted or flat, one near ({:.3f}, {:.3f}, {:.3f}) m",
                      bad.solid.size() + bad.split_around.size(), p.x, p.y, p.z),
          "mesh", "use a smaller size there");
    }
    declared_solid.insert(declared_solid.end(), bad.solid.begin(), bad.solid.end());
    if (!bad.solid.empty()) continue;
    if (round < most_splitting && octree.split(leaves_around(octree, grid, bad.split_around))) {
      octree.balance();
      grid = closed_grid(octree, solid, options, grid, cavities);
    } else {
      declared_solid.insert(declared_solid.end(), bad.split_around.begin(), bad.split_around.end());
    }
  }
  if (!declared_solid.empty())
    findings.note(fmt::format("{} flat cells at size jumps of the surface were taken as solid",
                              declared_solid.size()));
  return dual;
}

/// Edge of the leaves at each point of the mesh.
std::vector<double> leaf_edges(const DualMesh& dual, const Octree& octree) {
  std::vector<double> leaf(dual.point_info.size());
  for (std::size_t p = 0; p < leaf.size(); ++p)
    leaf[p] = octree.size(octree.leaves()[at(dual.point_info[p].leaf)]);
  return leaf;
}

/// Gaps and pieces of the vehicle that the mesh has no cells for, or too few.
void tell_what_is_missing(MeshResult& result, const std::vector<double>& leaf,
                          const Surface& vehicle, const SolidField& solid,
                          const MeshOptions& options) {
  const double h = options.surface_size;
  const std::vector<NarrowGap> closed = closed_gaps(result.mesh, leaf, vehicle, solid, h);
  result.gaps = narrow_gaps(result.mesh, leaf, options.standing_parts);
  report_lost(lost_pieces(result.mesh, leaf, vehicle, solid, h), result.findings);
  report_holes(holes_in_plates(result.mesh, vehicle, solid, h), result.findings);
  report_closed_gaps(closed, result.findings);
  report_gaps(result.gaps, result.findings);
  result.gaps.insert(result.gaps.end(), closed.begin(), closed.end());
}

/// Layers on the fitted core, and the last mending.
void finish(MeshResult& result, const std::vector<double>& leaf, const MeshOptions& options,
            const Progress& progress) {
  result.layers = grow_layers(result.mesh, leaf, options.layers, progress);
  if (options.layers.count == 0) {
    result.mesh.derive();
    result.merged += merge_bad_cells(result.mesh);
  }
  smooth_bad_faces(result.mesh);
  result.mesh.derive();  // afresh, so that the same mesh from a file gives the same bits
  report_unsound(fill_unsound_cells(result.mesh), result.findings);
  result.merged += result.layers.merged;
}

void check_sound(const MeshQuality& quality) {
  if (quality.sound()) return;
  const Vec3& p = quality.smallest_volume_at;
  throw MeshError(
      fmt::format("the mesh fails its own checks: {} face pyramids not positive, smallest volume "
                  "{:.3g} m3 at ({:.3f}, {:.3f}, {:.3f}) m, closure {:.1e}",
                  quality.negative_pyramids, quality.smallest_volume, p.x, p.y, p.z,
                  quality.worst_closure),
      "mesh", "use a smaller size there");
}

MeshResult mesh_sound(const Surface& as_given, const Box& tunnel, const MeshOptions& options,
                      const Progress& progress) {
  MeshResult result;
  Surface vehicle = as_given;
  report_joined(join_open_edges(vehicle, joining_distance(options)), joining_distance(options),
                result.findings);
  const SolidField solid = solid_of(vehicle, options);
  progress("octree", 0);
  Octree octree = sized_octree(vehicle, tunnel, solid, options, progress);
  result.tunnel = octree.box();
  report_facets(coarse_facets(vehicle, octree), result.findings);
  DualMesh dual = sound_dual(octree, solid, vehicle, options, result.findings, progress);
  report_pockets(dual, result.findings);
  report_thickened(dual, vehicle, result.findings);
  progress("fit", 0.6);
  const std::vector<Vec3> safe = dual.mesh.points;
  const SharpLines sharp(vehicle, solid);
  result.fit = fit_wall_points(dual, octree, solid, sharp, progress);
  progress("wall faces", 0.65);
  result.mesh = std::move(dual.mesh);
  const std::vector<double> leaf = leaf_edges(dual, octree);
  result.mesh.derive();
  result.merged = merge_bad_cells(result.mesh);
  if (ease_bad_faces(result.mesh, safe) > 0) result.merged += merge_bad_cells(result.mesh);
  report_dents(fill_dents(result.mesh), result.findings);
  result.united = unite_wall_faces(result.mesh, std::exchange(result.fit.on_sharp_edge, {}));
  balance_chords(result.mesh, leaf, sharp, solid);
  tell_what_is_missing(result, leaf, vehicle, solid, options);
  finish(result, leaf, options, progress);
  result.quality = measure_quality(result.mesh);
  report_missing_parts(result.mesh, vehicle, options.half, result.findings);
  report_quality(result.quality, result.findings);
  check_sound(result.quality);
  progress("measures", 1);
  return result;
}

}  // namespace

MeshResult build_mesh(const Surface& vehicle, const Box& tunnel, const MeshOptions& options,
                      const Progress& progress) {
  const auto start = std::chrono::steady_clock::now();
  refuse_contradictions(options, vehicle, tunnel);
  if (options.section) return build_section_mesh(vehicle, tunnel, options, progress);
  MeshResult result = mesh_sound(vehicle, tunnel, options, progress);
  result.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return result;
}

}  // namespace dunefield
