#include <dunefield/mesh/layers/layers.hpp>

#include <algorithm>
#include <map>
#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/layers/layer_plan.hpp>
#include <dunefield/mesh/layers/layered_mesh.hpp>
#include <dunefield/mesh/repair/mender.hpp>
#include <dunefield/mesh/repair/sound_moves.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr int most_finishes = 4;  // times that what has changed is looked at as it will be
// in which layers are made thinner where the finished mesh is bad; after these they are given up
// there
constexpr int gentle_rounds = 2;
// rounds between two such looks that leave as much bad as there was
constexpr int most_in_vain = 3;

constexpr double useless = 1e5;  // how bad a face is whose pyramids are not positive

/// Bad faces of a finished mesh that would not be there without its layers.
/// @return points of the mesh without layers: those at these faces; where nothing has moved at an
/// inverted one, what has moved elsewhere on its cells
/// @param m the finished mesh; @param bare the one without layers; @param judged points of the
/// latter at whose faces to look; all if there are none
std::vector<int> to_blame(const VolumeMesh& m, const Columns& columns, const VolumeMesh& bare,
                          const std::vector<char>& judged = {}) {
  std::vector<double> badness(at(m.faces()));
  const auto is_judged = [&](const Ring& r) {
    for (int k = 0; k < r.size; ++k)
      if (judged[at(columns.origin(r[k]))]) return true;
    return false;
  };
  parallel_for(
      badness.size(),
      [&](std::size_t f) {
        badness[f] = judged.empty() || is_judged(ring_of(m, static_cast<int>(f)))
                         ? face_badness(m, static_cast<int>(f))
                         : 0;
      },
      4096);
  std::vector<int> points;
  std::vector<char> inverted;  // cells that are so by what has moved elsewhere on them
  const int old_points = static_cast<int>(bare.points.size());
  const auto moved = [&](int p) {
    return p >= old_points || !(m.points[at(p)] == bare.points[at(p)]);
  };
  for (int f = 0; f < m.faces(); ++f) {
    if (!(badness[at(f)] > 1)) continue;
    const Ring r = ring_of(m, f);
    if (std::any_of(r.point, r.point + r.size, moved)) {
      for (int k = 0; k < r.size; ++k) points.push_back(columns.origin(r[k]));
    } else if (badness[at(f)] > useless) {
      inverted.resize(at(m.cells));
      inverted[at(m.cell_below[at(f)])] = 1;
      if (f < m.interior_faces()) inverted[at(m.cell_above[at(f)])] = 1;
    }
  }
  for (int f = 0; !inverted.empty() && f < m.faces(); ++f) {
    if (!inverted[at(m.cell_below[at(f)])] &&
        !(f < m.interior_faces() && inverted[at(m.cell_above[at(f)])]))
      continue;
    const Ring r = ring_of(m, f);
    for (int k = 0; k < r.size; ++k)
      if (moved(r[k])) points.push_back(columns.origin(r[k]));
  }
  std::sort(points.begin(), points.end());
  points.erase(std::unique(points.begin(), points.end()), points.end());
  return points;
}

/// @param m the mesh without layers; @param moved the same with its points where they made room
LayerReport report_of(const VolumeMesh& m, const VolumeMesh& moved, const CellFaces& rows,
                      const LayerPlan& plan, const LayerOptions& o) {
  LayerReport report;
  double wall = 0;  // m2
  std::map<LayersEnd, double> ends;
  for (const Boundary& p : m.boundaries) {
    if (p.kind != BoundaryKind::part || p.count == 0) continue;
    PartLayers part;
    part.part = p.name;
    double first_area = 0;
    for (int f = p.first; f < p.first + p.count; ++f) {
      const Ring r = ring_of(m, f);
      const Vec3 vector = measure_polygon(m.points, r.point, r.size).area;
      const double area = norm(vector);
      part.area += area;
      double layers = 0, thickness = 0, first = 0, last = 0, wanted = 0;
      bool all = true;
      int fewest = o.count;
      LayersEnd end = LayersEnd::without;
      for (int k = 0; k < r.size; ++k) {
        const int slot = plan.wall_point_at(r[k]);
        if (slot < 0) {
          all = false;
          continue;
        }
        const WallPoint& w = plan.wall_points()[at(slot)];
        wanted += w.first / r.size;
        layers += w.layers, all = all && w.layers == o.count;
        if (w.layers < fewest) fewest = w.layers, end = w.end;
        thickness += plan.height(w, w.layers) / w.stretch / r.size;
        first += plan.height(w, 1) / w.stretch / r.size;
        if (w.layers > 0)
          last += (plan.height(w, w.layers) - plan.height(w, w.layers - 1)) / w.stretch / r.size;
      }
      part.full_share += all ? area : 0;
      if (!all) ends[end] += area;
      part.thick_share += wanted > 0 && thickness >= 0.8 * wanted * o.sum(o.count) ? area : 0;
      part.first_share += std::abs(first - wanted) <= 0.2 * wanted ? area : 0;
      double core = 0;
      cell_soundness(moved, rows, m.cell_below[at(f)], &core);
      const double step =
          last * norm(measure_polygon(moved.points, r.point, r.size).area) / std::max(1e-30, core);
      part.step_share += step >= 0.3 && step <= 1.5 ? area : 0;
      if (layers > 0) part.mean_first_height += first * area, first_area += area;
    }
    if (part.area > 0)
      for (double PartLayers::*share : {&PartLayers::full_share, &PartLayers::thick_share,
                                        &PartLayers::first_share, &PartLayers::step_share})
        part.*share /= part.area;
    if (first_area > 0) part.mean_first_height /= first_area;
    report.parts.push_back(part);
    wall += part.area;
  }
  for (const auto& [end, area] : ends) report.ends.emplace_back(end, area / wall);
  std::stable_sort(report.ends.begin(), report.ends.end(),
                   [](const auto& a, const auto& b) { return a.second > b.second; });
  return report;
}

/// Grows layers as planned, looks at the result, and has them give way where it is bad.
class Grower {
 public:
  Grower(VolumeMesh& m, const std::vector<double>& leaf, const LayerOptions& o,
         const Progress& progress)
      : m_(m),
        options_(o),
        progress_(progress),
        plan_(m, leaf, o),
        rows_(faces_of_cells(m)),
        edges_(m, plan_.faces()) {}

  LayerReport grow() {
    VolumeMesh out;
    std::size_t fewest = m_.points.size();
    Plan seen;                 // when the whole mesh was last looked at
    std::vector<char> judged;  // points that have changed since; none: the whole mesh is looked at
    for (int finish = 0;;) {
      progress_("layers", 0.7 + 0.2 * finish / most_finishes);
      const Plan plan = planned();
      if (judged.empty()) seen = plan;
      const Columns columns(plan_, plan.core);
      out = built(columns, judged);
      const std::vector<int> bad = to_blame(out, columns, m_, judged);
      const bool in_vain = bad.size() >= fewest && is_sound(out);
      if (!bad.empty() && !in_vain && finish < most_finishes && give_way_at(bad)) {
        ++finish;
        fewest = std::min(fewest, bad.size());
        judged = changed_points(seen, planned());
      } else if (judged.empty()) {
        break;
      } else {
        judged.clear();
      }
    }
    VolumeMesh room = m_;
    room.points = plan_.core_points();
    LayerReport told = report_of(m_, room, rows_, plan_, options_);
    report_.parts = std::move(told.parts), report_.ends = std::move(told.ends);
    m_ = std::move(out);
    return report_;
  }

 private:
  struct Plan {
    std::vector<Vec3> core;
    std::vector<WallPoint> wall;
  };
  Plan planned() const { return {plan_.core_points(), plan_.wall_points()}; }

  /// Thinner layers at these points, in the end none, and so at those that are bad in turn when
  /// what moved by that is built again.
  /// @return false if nothing has changed
  bool give_way_at(std::vector<int> bad) {
    bool any = false;
    std::vector<Vec3> before = plan_.core_points();
    std::size_t fewest = bad.size() + 1;
    for (int in_vain = 0; !bad.empty() && in_vain < most_in_vain; ++report_.rounds) {
      progress_.check();
      const bool gentle = report_.rounds < gentle_rounds;
      if (!plan_.shrink(bad, gentle ? 0.5 : 0)) break;
      any = true;
      plan_.smooth();
      std::vector<Vec3> now = plan_.core_points();
      bad = bad_at(moved_points(before, now), now);
      before = std::move(now);
      if (gentle) continue;  // thinner layers may be worse before there are none
      in_vain = bad.size() < fewest ? 0 : in_vain + 1;
      fewest = std::min(fewest, bad.size());
    }
    return any;
  }
  static bool is_sound(const VolumeMesh& m) {
    return join_blocks(
               at(m.faces()), 1,
               [&](std::size_t first, std::size_t last) {
                 for (std::size_t f = first; f < last; ++f)
                   if (face_badness(m, static_cast<int>(f)) > useless) return 0;
                 return 1;
               },
               [](int& all, int more) { all = std::min(all, more); }) == 1;
  }
  /// Where only the number of layers has changed is not judged: thinned out there as well, layers
  /// of high growth would give way farther and farther.
  static std::vector<char> moved_points(const std::vector<Vec3>& before,
                                        const std::vector<Vec3>& now) {
    std::vector<char> moved(now.size());
    parallel_for(
        moved.size(), [&](std::size_t p) { moved[p] = !(before[p] == now[p]); }, 8192);
    return moved;
  }
  /// Points that have moved, or whose columns are others.
  std::vector<char> changed_points(const Plan& before, const Plan& now) const {
    std::vector<char> changed = moved_points(before.core, now.core);
    for (std::size_t i = 0; i < now.wall.size(); ++i)
      if (!(before.wall[i] == now.wall[i])) changed[at(now.wall[i].point)] = 1;
    return changed;
  }
  /// Which of these points are to blame for what is bad where their surroundings are built again.
  std::vector<int> bad_at(const std::vector<char>& points, const std::vector<Vec3>& core) {
    const Columns columns(plan_, core);
    return to_blame(built(columns, points), columns, m_, points);
  }
  /// The mesh with its layers, derived and mended.
  /// @param points around which to build it; if there are none, the whole mesh
  VolumeMesh built(const Columns& columns, const std::vector<char>& points) {
    std::vector<char> region;
    if (!points.empty()) region = cells_around(points);
    LayeredMesh layered(m_, plan_, edges_, columns, points.empty() ? nullptr : &region);
    VolumeMesh out = layered.build();
    out.derive();
    report_.merged = merge_bad_cells(out);
    report_.cells = layered.layer_cells() - report_.merged;
    return out;
  }
  /// Cells at these points, and some rings of cells more, so that cells are merged there as they
  /// will be in the whole mesh.
  std::vector<char> cells_around(const std::vector<char>& points) const {
    constexpr int rings = 3;  // as far as the mender looks from a bad face
    std::vector<char> in(at(m_.cells), 0);
    for (int f = 0; f < m_.faces(); ++f) {
      const Ring r = ring_of(m_, f);
      for (int k = 0; k < r.size; ++k)
        if (points[at(r[k])]) {
          in[at(m_.cell_below[at(f)])] = 1;
          if (f < m_.interior_faces()) in[at(m_.cell_above[at(f)])] = 1;
          break;
        }
    }
    for (int ring = 0; ring < rings; ++ring) {
      std::vector<char> more = in;
      for (int f = 0; f < m_.interior_faces(); ++f) {
        const std::size_t a = at(m_.cell_below[at(f)]), b = at(m_.cell_above[at(f)]);
        if (in[a] != in[b]) more[a] = more[b] = 1;
      }
      in = std::move(more);
    }
    return in;
  }

  VolumeMesh& m_;
  const LayerOptions& options_;
  const Progress& progress_;
  LayerPlan plan_;
  CellFaces rows_;
  WallEdges edges_;
  LayerReport report_;
};

}  // namespace

const char* in_words(LayersEnd end) {
  switch (end) {
    case LayersEnd::corner: return "walls meet at too sharp an angle";
    case LayersEnd::without: return "a part without layers begins";
    case LayersEnd::gap: return "another wall is near";
    case LayersEnd::dent: return "the walls of a dent face each other";
    case LayersEnd::bad_cells: return "faces would be beyond the limits";
    case LayersEnd::sizes: break;
  }
  return "cells beside it have another size";
}

double LayerReport::mean(double PartLayers::*share) const {
  double area = 0, sum = 0;
  for (const PartLayers& p : parts) area += p.area, sum += p.area * (p.*share);
  return area > 0 ? sum / area : 0;
}

LayerReport grow_layers(VolumeMesh& m, const std::vector<double>& leaf, const LayerOptions& o,
                        const Progress& progress) {
  if (o.count == 0) return {};
  return Grower(m, leaf, o, progress).grow();
}

}  // namespace dunefield
