#include <dunefield/mesh/layers.hpp>

#include <algorithm>
#include <numeric>
#include <unordered_map>

#include <dunefield/mesh/fitting.hpp>
#include <dunefield/mesh/layer_plan.hpp>
#include <dunefield/mesh/mender.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr int most_rounds = 30;
constexpr int gentle_rounds = 8;               // after these, the finished mesh is looked at, and layers that are still bad there are given up
constexpr int most_in_vain = 2;                // finished meshes in a row that are no better than one before
constexpr double least_core_soundness = 0.08;  // a core cell may not become worse than that by making room, unless it was
constexpr double least_height = 0.25;          // of a layer's own height: its cell's centre stays that far, twice, from floor and roof

constexpr std::size_t at(int i) { return static_cast<std::size_t>(i); }

/// Point of a column in the new mesh, and its place.
class Columns {
 public:
  Columns(const LayerPlan& plan, std::vector<Vec3> core) : plan_(plan), points_(std::move(core)) {
    first_.resize(plan.wall_points().size());
    for (std::size_t i = 0; i < first_.size(); ++i) {
      const WallPoint& w = plan.wall_points()[i];
      first_[i] = static_cast<int>(points_.size());
      for (int k = 0; k < w.layers; ++k) points_.push_back(plan.place(w, k)), wall_.push_back(w.point);
    }
  }
  /// Mesh point `p` at level `k`: 0 on the wall; from its last layer on the point of the core.
  int number(int p, int k) const {
    const int slot = plan_.wall_point_at(p);
    return slot < 0 || k >= plan_.wall_points()[at(slot)].layers ? p : first_[at(slot)] + k;
  }
  int layers(int p) const { return plan_.wall_points()[at(plan_.wall_point_at(p))].layers; }
  /// Point of the mesh without layers that a point of the new mesh stands for.
  int origin(int p) const {
    const int old = static_cast<int>(points_.size() - wall_.size());
    return p < old ? p : wall_[at(p - old)];
  }
  const std::vector<Vec3>& points() const { return points_; }

 private:
  const LayerPlan& plan_;
  std::vector<Vec3> points_;
  std::vector<int> first_, wall_;
};

struct Ring {
  const int* point;
  int size;
  int operator[](int k) const { return point[k % size]; }
};

Ring ring_of(const VolumeMesh& m, int f) { return {&m.face_points[at(m.face_start[at(f)])], m.face_start[at(f) + 1] - m.face_start[at(f)]}; }

int layers_of(const Columns& columns, const Ring& ring) {
  int n = 0;
  for (int k = 0; k < ring.size; ++k) n = std::max(n, columns.layers(ring[k]));
  return n;
}

/// One layer cell of a column: its faces outward. Level j - 1 is its floor, towards the wall. Of wedges, where the number of layers
/// changes, nothing is asked: the finished mesh merges those that are no good.
bool layer_cell_is_sound(const Columns& columns, const Ring& ring, int j) {
  for (int k = 0; k < ring.size; ++k)
    if (columns.layers(ring[k]) < j) return true;
  std::vector<int> floor, roof;
  for (int k = 0; k < ring.size; ++k) floor.push_back(columns.number(ring[k], j - 1)), roof.push_back(columns.number(ring[ring.size - 1 - k], j));
  std::vector<PolygonMeasure> faces = {measure_polygon(columns.points(), floor.data(), ring.size), measure_polygon(columns.points(), roof.data(), ring.size)};
  for (int k = 0; k < ring.size; ++k) {
    const int side[4] = {columns.number(ring[k], j), columns.number(ring[k + 1], j), columns.number(ring[k + 1], j - 1), columns.number(ring[k], j - 1)};
    faces.push_back(measure_polygon(columns.points(), side, 4));
  }
  double volume = 0;
  if (soundness_of(faces.data(), static_cast<int>(faces.size()), &volume) <= 1e-4) return false;
  // Floor and roof must face each other, and the cell must not be much thinner than its volume says.
  const double height = volume / std::max(norm(faces[0].area), norm(faces[1].area));
  if (dot(unit(faces[0].area), unit(faces[1].area)) > -0.5) return false;
  Vec3 middle;
  for (const PolygonMeasure& f : faces) middle += f.centre / static_cast<double>(faces.size());
  return dot(unit(faces[0].area), faces[0].centre - middle) > least_height * height && dot(unit(faces[1].area), faces[1].centre - middle) > least_height * height;
}

/// Finds what is bad with a plan; from its second look on only where the plan has changed.
class Inspection {
 public:
  Inspection(const VolumeMesh& m, const CellFaces& rows, const LayerPlan& plan) : rows_(rows), plan_(plan), core_(m), shape_(plan.wall_points().size()), bad_column_(plan.faces().size(), 0) {
    touched_ = std::vector<char>(at(m.cells), 0);
    bad_core_ = touched_;
    before_.resize(at(m.cells));
  }

  /// Mesh points of everything that is bad.
  std::vector<int> bad_points(const Columns& columns) {
    const std::vector<char> moved = take_over(columns);
    parallel_for(bad_core_.size(), [&](std::size_t c) {
      if (!any_point(static_cast<int>(c), moved)) return;
      const double limit = std::min(least_core_soundness, 0.99 * before_[c]);
      bad_core_[c] = cell_soundness(core_, rows_, static_cast<int>(c)) < limit;
    }, 256);
    parallel_for(bad_column_.size(), [&](std::size_t i) {
      const Ring ring = ring_of(core_, plan_.faces()[i]);
      bool changed = false;
      for (int k = 0; k < ring.size && !changed; ++k) changed = shape_changed_[at(plan_.wall_point_at(ring[k]))];
      if (!changed) return;
      bad_column_[i] = 0;
      for (int j = 1; j <= layers_of(columns, ring) && !bad_column_[i]; ++j) bad_column_[i] = !layer_cell_is_sound(columns, ring, j);
    }, 256);
    std::vector<int> points;
    const auto add = [&](int f) {
      const Ring ring = ring_of(core_, f);
      points.insert(points.end(), ring.point, ring.point + ring.size);
    };
    for (std::size_t c = 0; c < bad_core_.size(); ++c)
      for (int r = rows_.start[c]; bad_core_[c] && r < rows_.start[c + 1]; ++r) add(rows_.face[at(r)]);
    for (std::size_t i = 0; i < bad_column_.size(); ++i)
      if (bad_column_[i]) add(plan_.faces()[i]);
    std::sort(points.begin(), points.end());
    points.erase(std::unique(points.begin(), points.end()), points.end());
    return points;
  }

 private:
  bool any_point(int cell, const std::vector<char>& flag) const {
    for (int r = rows_.start[at(cell)]; r < rows_.start[at(cell) + 1]; ++r) {
      const Ring ring = ring_of(core_, rows_.face[at(r)]);
      for (int k = 0; k < ring.size; ++k)
        if (flag[at(ring[k])]) return true;
    }
    return false;
  }
  /// Takes the plan's places over. @return the points that are elsewhere now
  std::vector<char> take_over(const Columns& columns) {
    std::vector<char> moved(core_.points.size(), 0);
    parallel_for(moved.size(), [&](std::size_t p) { moved[p] = !(core_.points[p] == columns.points()[p]); });
    // How sound a cell was is asked before its points move for the first time.
    parallel_for(touched_.size(), [&](std::size_t c) {
      if (!touched_[c] && any_point(static_cast<int>(c), moved)) touched_[c] = 1, before_[c] = cell_soundness(core_, rows_, static_cast<int>(c));
    }, 256);
    std::copy_n(columns.points().begin(), moved.size(), core_.points.begin());
    shape_changed_.assign(shape_.size(), 0);
    for (std::size_t i = 0; i < shape_.size(); ++i) {
      const WallPoint& w = plan_.wall_points()[i];
      const std::pair<double, int> now{w.thickness, w.layers};
      shape_changed_[i] = !looked_ || shape_[i] != now;
      shape_[i] = now;
    }
    looked_ = true;
    return moved;
  }

  const CellFaces& rows_;
  const LayerPlan& plan_;
  VolumeMesh core_;  ///< same faces, points moved
  std::vector<std::pair<double, int>> shape_;
  std::vector<char> touched_, bad_core_, bad_column_, shape_changed_;
  std::vector<double> before_;
  bool looked_ = false;
};

/// Puts the new mesh together: columns stand behind the cell they grew from, from the core to the wall.
class LayeredMesh {
 public:
  LayeredMesh(const VolumeMesh& m, const LayerPlan& plan, const Columns& columns) : m_(m), plan_(plan), columns_(columns) {}

  VolumeMesh build() {
    number_cells();
    core_faces();
    index_wall_edges();
    for (std::size_t i = 0; i < plan_.faces().size(); ++i) column_faces(static_cast<int>(i));
    return sorted();
  }
  int layer_cells() const { return cells_ - m_.cells; }

 private:
  struct Face {
    int below, above;  ///< above: cell, or -1 - patch
    int first, size;
  };
  void number_cells() {
    std::vector<int> own(at(m_.cells), 0);
    depth_.resize(plan_.faces().size());
    face_slot_.assign(at(m_.faces()), -1);
    for (std::size_t i = 0; i < depth_.size(); ++i) {
      const int f = plan_.faces()[i];
      depth_[i] = layers_of(columns_, ring_of(m_, f));
      face_slot_[at(f)] = static_cast<int>(i);
      own[at(m_.cell_below[at(f)])] += depth_[i];
    }
    core_number_.resize(at(m_.cells));
    for (int c = 0; c < m_.cells; ++c) core_number_[at(c)] = cells_, cells_ += 1 + own[at(c)];
    std::vector<int> next(core_number_);
    top_.resize(depth_.size());
    for (std::size_t i = 0; i < depth_.size(); ++i) {
      int& n = next[at(m_.cell_below[at(plan_.faces()[i])])];
      top_[i] = n + 1, n += depth_[i];
    }
  }
  /// Cell of layer `j` (1 at the wall) on wall face `i`.
  int layer_cell(int i, int j) const { return top_[at(i)] + depth_[at(i)] - j; }
  void add(int below, int above, const std::vector<int>& points) {
    faces_.push_back({below, above, static_cast<int>(corner_.size()), static_cast<int>(points.size())});
    corner_.insert(corner_.end(), points.begin(), points.end());
  }
  void core_faces() {
    for (int f = 0; f < m_.interior_faces(); ++f) {
      const Ring r = ring_of(m_, f);
      add(core_number_[at(m_.cell_below[at(f)])], core_number_[at(m_.cell_above[at(f)])], {r.point, r.point + r.size});
    }
    for (std::size_t p = 0; p < m_.patches.size(); ++p)
      for (int f = m_.patches[p].first; f < m_.patches[p].first + m_.patches[p].count; ++f) {
        if (const int i = face_slot_[at(f)]; i >= 0 && depth_[at(i)] > 0) continue;
        const Ring r = ring_of(m_, f);
        add(core_number_[at(m_.cell_below[at(f)])], -1 - static_cast<int>(p), {r.point, r.point + r.size});
      }
  }
  static std::uint64_t key(int a, int b) { return static_cast<std::uint64_t>(std::min(a, b)) << 32 | static_cast<std::uint32_t>(std::max(a, b)); }
  /// The two boundary faces at each edge of the wall: a wall face by its number, another patch as -1 - patch.
  void index_wall_edges() {
    edge_.reserve(3 * plan_.faces().size());
    for (std::size_t i = 0; i < plan_.faces().size(); ++i) {
      const Ring r = ring_of(m_, plan_.faces()[i]);
      for (int k = 0; k < r.size; ++k) {
        auto [it, fresh] = edge_.try_emplace(key(r[k], r[k + 1]), std::array<int, 2>{static_cast<int>(i), nobody});
        if (!fresh) it->second[1] = static_cast<int>(i);
      }
    }
    for (std::size_t p = 0; p < m_.patches.size(); ++p)
      for (int f = m_.patches[p].first; f < m_.patches[p].first + m_.patches[p].count; ++f) {
        if (face_slot_[at(f)] >= 0) continue;
        const Ring r = ring_of(m_, f);
        for (int k = 0; k < r.size; ++k)
          if (const auto it = edge_.find(key(r[k], r[k + 1])); it != edge_.end() && it->second[1] == nobody) it->second[1] = -1 - static_cast<int>(p);
      }
  }
  void column_faces(int i) {
    const int f = plan_.faces()[at(i)], depth = depth_[at(i)];
    if (depth == 0) return;
    const Ring r = ring_of(m_, f);
    const int patch = patch_of(f);
    for (int level = depth; level >= 0; --level) {
      std::vector<int> points;
      for (int k = 0; k < r.size; ++k) points.push_back(columns_.number(r[k], level));
      const int below = level == depth ? core_number_[at(m_.cell_below[at(f)])] : layer_cell(i, level + 1);
      add(below, level == 0 ? -1 - patch : layer_cell(i, level), points);
    }
    for (int k = 0; k < r.size; ++k) {
      const auto& sides = edge_.at(key(r[k], r[k + 1]));
      const int other = sides[0] == i ? sides[1] : sides[0];
      if (other >= 0 && other < i) continue;  // the other face has made them
      const int reach = std::max(columns_.layers(r[k]), columns_.layers(r[k + 1]));
      for (int j = 1; j <= reach; ++j) {
        const int quad[4] = {columns_.number(r[k], j), columns_.number(r[k + 1], j), columns_.number(r[k + 1], j - 1), columns_.number(r[k], j - 1)};
        std::vector<int> side;
        for (int c = 0; c < 4; ++c)
          if (side.empty() || (side.back() != quad[c] && side.front() != quad[c])) side.push_back(quad[c]);
        if (side.size() < 3) continue;
        int below = layer_cell(i, j), above = other >= 0 ? layer_cell(other, j) : other;
        if (other >= 0 && above < below) std::swap(below, above), std::reverse(side.begin(), side.end());
        add(below, above, side);
      }
    }
  }
  int patch_of(int f) const {
    for (std::size_t p = 0; p < m_.patches.size(); ++p)
      if (f >= m_.patches[p].first && f < m_.patches[p].first + m_.patches[p].count) return static_cast<int>(p);
    return 0;
  }
  /// Inner faces by their lower, then their higher cell; behind them those of each patch by their cell.
  std::vector<int> order_of_faces() const {
    const auto inner = [&](const Face& f) { return f.above >= 0; };
    const auto bucket = [&](const Face& f) { return at(inner(f) ? f.below : cells_ - 1 - f.above); };
    std::vector<int> start(at(cells_) + m_.patches.size() + 1, 0), order(faces_.size());
    for (const Face& f : faces_) ++start[bucket(f) + 1];
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<int> next(start.begin(), start.end() - 1);
    for (std::size_t f = 0; f < faces_.size(); ++f) order[at(next[bucket(faces_[f])]++)] = static_cast<int>(f);
    parallel_for(start.size() - 1, [&](std::size_t b) {
      const auto second = [&](int f) { return inner(faces_[at(f)]) ? faces_[at(f)].above : faces_[at(f)].below; };
      std::stable_sort(order.begin() + start[b], order.begin() + start[b + 1], [&](int f, int g) { return second(f) < second(g); });
    }, 4096);
    return order;
  }
  VolumeMesh sorted() {
    const std::vector<int> order = order_of_faces();
    VolumeMesh out;
    out.cells = cells_;
    out.points = columns_.points();
    out.patches = m_.patches;
    for (Patch& p : out.patches) p.count = 0;
    out.face_start = {0};
    for (const int f : order) {
      const Face& face = faces_[at(f)];
      out.face_points.insert(out.face_points.end(), corner_.begin() + face.first, corner_.begin() + face.first + face.size);
      out.face_start.push_back(static_cast<int>(out.face_points.size()));
      out.cell_below.push_back(face.below);
      if (face.above >= 0) out.cell_above.push_back(face.above);
      else ++out.patches[at(-1 - face.above)].count;
    }
    int next = out.interior_faces();
    for (Patch& p : out.patches) p.first = next, next += p.count;
    return out;
  }

  static constexpr int nobody = -1000000;
  const VolumeMesh& m_;
  const LayerPlan& plan_;
  const Columns& columns_;
  int cells_ = 0;
  std::vector<int> depth_, top_, core_number_, face_slot_;
  std::unordered_map<std::uint64_t, std::array<int, 2>> edge_;
  std::vector<Face> faces_;
  std::vector<int> corner_;
};

/// Bad faces of a finished mesh that would not be there without its layers.
struct Blame {
  std::vector<int> points;  ///< of the mesh without layers, at these faces
  bool unsound = false;     ///< one of them makes the mesh useless
};

/// @param m the finished mesh; @param bare the one without layers
Blame blame_of(const VolumeMesh& m, const Columns& columns, const VolumeMesh& bare) {
  std::vector<double> bad(at(m.faces()));
  parallel_for(bad.size(), [&](std::size_t f) { bad[f] = face_badness(m, static_cast<int>(f)); }, 4096);
  Blame blame;
  const int old_points = static_cast<int>(bare.points.size());
  for (int f = 0; f < m.faces(); ++f) {
    if (!(bad[at(f)] > 1)) continue;
    const Ring r = ring_of(m, f);
    bool ours = false;
    for (int k = 0; k < r.size && !ours; ++k) ours = r[k] >= old_points || !(m.points[at(r[k])] == bare.points[at(r[k])]);
    for (int k = 0; ours && k < r.size; ++k) blame.points.push_back(columns.origin(r[k]));
    blame.unsound = blame.unsound || (ours && bad[at(f)] > 1e5);
  }
  std::sort(blame.points.begin(), blame.points.end());
  blame.points.erase(std::unique(blame.points.begin(), blame.points.end()), blame.points.end());
  return blame;
}

/// @param m the mesh without layers; @param moved the same with its points where they made room
LayerReport report_of(const VolumeMesh& m, const VolumeMesh& moved, const CellFaces& rows, const LayerPlan& plan, const LayerOptions& o) {
  LayerReport report;
  for (const Patch& p : m.patches) {
    if (p.kind != PatchKind::part || p.count == 0) continue;
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
      for (int k = 0; k < r.size; ++k) {
        const int slot = plan.wall_point_at(r[k]);
        if (slot < 0) {
          all = false;
          continue;
        }
        const WallPoint& w = plan.wall_points()[at(slot)];
        wanted += w.first / r.size;
        layers += w.layers, all = all && w.layers == o.count;
        thickness += plan.height(w, w.layers) / w.stretch / r.size;
        first += plan.height(w, 1) / w.stretch / r.size;
        if (w.layers > 0) last += (plan.height(w, w.layers) - plan.height(w, w.layers - 1)) / w.stretch / r.size;
      }
      part.full_share += all ? area : 0;
      part.thick_share += wanted > 0 && thickness >= 0.8 * wanted * o.sum(o.count) ? area : 0;
      part.first_share += std::abs(first - wanted) <= 0.2 * wanted ? area : 0;
      double core = 0;
      cell_soundness(moved, rows, m.cell_below[at(f)], &core);
      const double step = last * norm(measure_polygon(moved.points, r.point, r.size).area) / std::max(1e-30, core);
      part.step_share += step >= 0.3 && step <= 1.5 ? area : 0;
      if (layers > 0) part.mean_first_height += first * area, first_area += area;
    }
    if (part.area > 0)
      for (double PartLayers::* share : {&PartLayers::full_share, &PartLayers::thick_share, &PartLayers::first_share, &PartLayers::step_share}) part.*share /= part.area;
    if (first_area > 0) part.mean_first_height /= first_area;
    report.parts.push_back(part);
  }
  return report;
}

}  // namespace

double LayerReport::mean(double PartLayers::* share) const {
  double area = 0, sum = 0;
  for (const PartLayers& p : parts) area += p.area, sum += p.area * (p.*share);
  return area > 0 ? sum / area : 0;
}

LayerReport grow_layers(VolumeMesh& m, const std::vector<double>& leaf, const LayerOptions& o, const Progress& progress) {
  if (o.count == 0) return {};
  LayerPlan plan(m, leaf, o);
  const CellFaces rows = faces_of_cells(m);
  Inspection inspection(m, rows, plan);
  LayerReport report;
  VolumeMesh out;
  std::size_t fewest = m.points.size();  // bad points of a finished mesh
  int in_vain = 0;
  for (int round = 0;; ++round) {
    progress.check();
    progress("layers", 0.7 + 0.2 * round / most_rounds);
    report.rounds = round;
    const Columns columns(plan, plan.core_points());
    std::vector<int> bad = inspection.bad_points(columns);
    const bool last = round == most_rounds;
    if (bad.empty() || round >= gentle_rounds) {
      LayeredMesh layered(m, plan, columns);
      out = layered.build();
      out.derive();
      report.merged = merge_bad_cells(out);
      report.cells = layered.layer_cells() - report.merged;
      const Blame blame = blame_of(out, columns, m);
      bad = blame.points;
      in_vain = bad.size() < fewest || blame.unsound ? 0 : in_vain + 1;
      fewest = std::min(fewest, bad.size());
    }
    if (bad.empty() || last || in_vain == most_in_vain || !plan.shrink(bad, round < gentle_rounds ? 0.5 : 0)) break;
    plan.smooth();
  }
  VolumeMesh room = m;
  room.points = plan.core_points();
  report.parts = report_of(m, room, rows, plan, o).parts;
  m = std::move(out);
  return report;
}

}  // namespace dunefield
