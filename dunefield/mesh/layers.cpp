#include <dunefield/mesh/layers.hpp>

#include <algorithm>
#include <numeric>

#include <dunefield/mesh/layer_plan.hpp>
#include <dunefield/mesh/mender.hpp>
#include <dunefield/mesh/sound_moves.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr int most_finishes = 4;  // times that the finished mesh is built again
// in which layers are made thinner where the finished mesh is bad; after these they are given up
// there
constexpr int gentle_rounds = 2;
// rounds between two finished meshes that leave as much bad as there was
constexpr int most_in_vain = 3;

constexpr std::size_t at(int i) { return static_cast<std::size_t>(i); }

/// Point of a column in the new mesh, and its place.
class Columns {
 public:
  Columns(const LayerPlan& plan, std::vector<Vec3> core) : plan_(plan), points_(std::move(core)) {
    first_.resize(plan.wall_points().size());
    for (std::size_t i = 0; i < first_.size(); ++i) {
      const WallPoint& w = plan.wall_points()[i];
      first_[i] = static_cast<int>(points_.size());
      for (int k = 0; k < w.layers; ++k)
        points_.push_back(plan.place(w, k)), wall_.push_back(w.point);
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

Ring ring_of(const VolumeMesh& m, int f) {
  return {&m.face_points[at(m.face_start[at(f)])], m.face_start[at(f) + 1] - m.face_start[at(f)]};
}

int layers_of(const Columns& columns, const Ring& ring) {
  int n = 0;
  for (int k = 0; k < ring.size; ++k) n = std::max(n, columns.layers(ring[k]));
  return n;
}

/// What lies across each edge of the layered wall, edge by edge of face by face: another of its
/// faces by its number, or another patch as -1 - patch.
class WallEdges {
 public:
  WallEdges(const VolumeMesh& m, const std::vector<int>& faces) : start_(1, 0) {
    struct Use {
      std::uint64_t edge;
      int side;  ///< a layered face, or -1 - patch
      int slot;
      bool operator<(const Use& o) const { return edge != o.edge ? edge < o.edge : slot < o.slot; }
    };
    std::vector<char> layered(at(m.faces()), 0);
    std::vector<Use> uses;
    for (std::size_t i = 0; i < faces.size(); ++i) {
      layered[at(faces[i])] = 1;
      const Ring r = ring_of(m, faces[i]);
      for (int k = 0; k < r.size; ++k)
        uses.push_back({key(r[k], r[k + 1]), static_cast<int>(i), start_.back() + k});
      start_.push_back(start_.back() + r.size);
    }
    std::vector<char> at_wall(m.points.size(), 0);
    for (const int f : faces)
      for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k)
        at_wall[at(m.face_points[at(k)])] = 1;
    int slot = start_.back();
    for (std::size_t p = 0; p < m.patches.size(); ++p)
      for (int f = m.patches[p].first; f < m.patches[p].first + m.patches[p].count; ++f) {
        const Ring r = ring_of(m, f);
        for (int k = 0; k < r.size && !layered[at(f)]; ++k)
          if (at_wall[at(r[k])] && at_wall[at(r[k + 1])])
            uses.push_back({key(r[k], r[k + 1]), -1 - static_cast<int>(p), slot++});
      }
    std::sort(uses.begin(), uses.end());
    across_.assign(at(start_.back()), nobody);
    for (std::size_t first = 0, last; first < uses.size(); first = last) {
      for (last = first; last < uses.size() && uses[last].edge == uses[first].edge;) ++last;
      int walls = 0;
      for (std::size_t i = first; i < last; ++i) walls += uses[i].side >= 0;
      if (walls == 0) continue;
      const int one = uses[first].side, other = walls > 1 ? uses[first + at(walls) - 1].side
                                                : last - first > 1 ? uses[first + 1].side
                                                                   : nobody;
      for (std::size_t i = first; i < first + at(walls); ++i)
        across_[at(uses[i].slot)] = uses[i].side == one ? other : one;
    }
  }
  int across(int face, int edge) const { return across_[at(start_[at(face)] + edge)]; }

  static constexpr int nobody = -1000000;

 private:
  static std::uint64_t key(int a, int b) {
    return static_cast<std::uint64_t>(std::min(a, b)) << 32 |
           static_cast<std::uint32_t>(std::max(a, b));
  }
  std::vector<int> start_, across_;
};

/// Puts the new mesh together: columns stand behind the cell they grew from, from the core to the
/// wall.
class LayeredMesh {
 public:
  /// @param region cells of `m` to build; if there is one, the faces to the others are a patch of
  /// their own, the last
  LayeredMesh(const VolumeMesh& m, const LayerPlan& plan, const WallEdges& edges,
              const Columns& columns, const std::vector<char>* region = nullptr)
      : m_(m), plan_(plan), edges_(edges), columns_(columns), region_(region) {}

  VolumeMesh build() {
    number_cells();
    core_faces();
    for (std::size_t p = 0; p < m_.patches.size(); ++p)
      for (int f = m_.patches[p].first; f < m_.patches[p].first + m_.patches[p].count; ++f)
        if (const int i = face_slot_[at(f)]; i >= 0 && within(m_.cell_below[at(f)]))
          column_faces(i, static_cast<int>(p));
    return sorted();
  }
  int layer_cells() const { return layer_cells_; }

 private:
  struct Face {
    int below, above;  ///< above: cell, or -1 - patch
    int first, size;
  };
  bool within(int cell) const { return !region_ || (*region_)[at(cell)]; }
  int cut() const { return static_cast<int>(m_.patches.size()); }

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
    core_number_.assign(at(m_.cells), -1);
    for (int c = 0; c < m_.cells; ++c)
      if (within(c))
        core_number_[at(c)] = cells_, cells_ += 1 + own[at(c)], layer_cells_ += own[at(c)];
    std::vector<int> next(core_number_);
    top_.resize(depth_.size());
    for (std::size_t i = 0; i < depth_.size(); ++i) {
      int& n = next[at(m_.cell_below[at(plan_.faces()[i])])];
      top_[i] = n + 1, n += depth_[i];
    }
  }
  /// Cell of layer `j` (1 at the wall) on wall face `i`.
  int layer_cell(int i, int j) const { return top_[at(i)] + depth_[at(i)] - j; }
  void add(int below, int above, const int* points, int size) {
    faces_.push_back({below, above, static_cast<int>(corner_.size()), size});
    corner_.insert(corner_.end(), points, points + size);
  }
  void core_faces() {
    if (!region_)
      faces_.reserve(at(m_.faces()) + 5 * at(layer_cells_)),
          corner_.reserve(m_.face_points.size() + 20 * at(layer_cells_));
    for (int f = 0; f < m_.interior_faces(); ++f) {
      const int below = core_number_[at(m_.cell_below[at(f)])],
                above = core_number_[at(m_.cell_above[at(f)])];
      if (below < 0 && above < 0) continue;
      const Ring r = ring_of(m_, f);
      add(below < 0 ? above : below, below < 0 || above < 0 ? -1 - cut() : above, r.point, r.size);
      if (below < 0) std::reverse(corner_.end() - r.size, corner_.end());
    }
    for (std::size_t p = 0; p < m_.patches.size(); ++p)
      for (int f = m_.patches[p].first; f < m_.patches[p].first + m_.patches[p].count; ++f) {
        if (const int i = face_slot_[at(f)];
            !within(m_.cell_below[at(f)]) || (i >= 0 && depth_[at(i)] > 0))
          continue;
        const Ring r = ring_of(m_, f);
        add(core_number_[at(m_.cell_below[at(f)])], -1 - static_cast<int>(p), r.point, r.size);
      }
  }
  void column_faces(int i, int patch) {
    const int f = plan_.faces()[at(i)], depth = depth_[at(i)];
    if (depth == 0) return;
    const Ring r = ring_of(m_, f);
    std::vector<int> points(at(r.size));
    for (int level = depth; level >= 0; --level) {
      for (int k = 0; k < r.size; ++k) points[at(k)] = columns_.number(r[k], level);
      const int below =
          level == depth ? core_number_[at(m_.cell_below[at(f)])] : layer_cell(i, level + 1);
      add(below, level == 0 ? -1 - patch : layer_cell(i, level), points.data(), r.size);
    }
    for (int k = 0; k < r.size; ++k) {
      const int other = edges_.across(i, k);
      const bool built = other >= 0 && within(m_.cell_below[at(plan_.faces()[at(other)])]);
      if (built && other < i) continue;  // the other face has made them
      const int reach = std::max(columns_.layers(r[k]), columns_.layers(r[k + 1]));
      for (int j = 1; j <= reach; ++j) {
        const int quad[4] = {columns_.number(r[k], j), columns_.number(r[k + 1], j),
                             columns_.number(r[k + 1], j - 1), columns_.number(r[k], j - 1)};
        int side[4], n = 0;
        for (const int c : quad)
          if (n == 0 || (side[n - 1] != c && side[0] != c)) side[n++] = c;
        if (n < 3) continue;
        int below = layer_cell(i, j), above = built        ? layer_cell(other, j)
                                              : other >= 0 ? -1 - cut()
                                                           : other;
        if (built && above < below) std::swap(below, above), std::reverse(side, side + n);
        add(below, above, side, n);
      }
    }
  }
  /// Inner faces by their lower, then their higher cell; behind them those of each patch by their
  /// cell.
  std::vector<int> order_of_faces() const {
    const auto inner = [&](const Face& f) { return f.above >= 0; };
    const auto bucket = [&](const Face& f) {
      return at(inner(f) ? f.below : cells_ - 1 - f.above);
    };
    std::vector<int> start(at(cells_) + m_.patches.size() + 2, 0), order(faces_.size());
    for (const Face& f : faces_) ++start[bucket(f) + 1];
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<int> next(start.begin(), start.end() - 1);
    for (std::size_t f = 0; f < faces_.size(); ++f)
      order[at(next[bucket(faces_[f])]++)] = static_cast<int>(f);
    parallel_for(
        start.size() - 1,
        [&](std::size_t b) {
          const auto second = [&](int f) {
            return inner(faces_[at(f)]) ? faces_[at(f)].above : faces_[at(f)].below;
          };
          const auto before = [&](int f, int g) { return second(f) < second(g); };
          if (!std::is_sorted(order.begin() + start[b], order.begin() + start[b + 1], before))
            std::stable_sort(order.begin() + start[b], order.begin() + start[b + 1], before);
        },
        4096);
    return order;
  }
  VolumeMesh sorted() {
    const std::vector<int> order = order_of_faces();
    VolumeMesh out;
    out.cells = cells_;
    out.points = columns_.points();
    out.patches = m_.patches;
    if (region_) out.patches.push_back({"cut", PatchKind::side, 0, 0});
    for (Patch& p : out.patches) p.count = 0;
    out.face_start.resize(order.size() + 1), out.cell_below.resize(order.size()),
        out.face_points.resize(corner_.size());
    out.face_start[0] = 0;
    std::size_t inner = 0;
    for (std::size_t i = 0; i < order.size(); ++i) {
      const Face& face = faces_[at(order[i])];
      out.face_start[i + 1] = out.face_start[i] + face.size;
      if (face.above >= 0)
        ++inner;
      else
        ++out.patches[at(-1 - face.above)].count;
    }
    out.cell_above.resize(inner);
    parallel_for(
        order.size(),
        [&](std::size_t i) {
          const Face& face = faces_[at(order[i])];
          std::copy_n(corner_.begin() + face.first, face.size,
                      out.face_points.begin() + out.face_start[i]);
          out.cell_below[i] = face.below;
          if (i < inner) out.cell_above[i] = face.above;
        },
        8192);
    int next = static_cast<int>(inner);
    for (Patch& p : out.patches) p.first = next, next += p.count;
    return out;
  }

  const VolumeMesh& m_;
  const LayerPlan& plan_;
  const WallEdges& edges_;
  const Columns& columns_;
  const std::vector<char>* region_;
  int cells_ = 0, layer_cells_ = 0;
  std::vector<int> depth_, top_, core_number_, face_slot_;
  std::vector<Face> faces_;
  std::vector<int> corner_;
};

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
        if (w.layers > 0)
          last += (plan.height(w, w.layers) - plan.height(w, w.layers - 1)) / w.stretch / r.size;
      }
      part.full_share += all ? area : 0;
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
  }
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
    for (int finish = 0;; ++finish) {
      progress_("layers", 0.7 + 0.2 * finish / most_finishes);
      const Columns columns(plan_, plan_.core_points());
      LayeredMesh layered(m_, plan_, edges_, columns);
      out = layered.build();
      out.derive();
      report_.merged = merge_bad_cells(out);
      report_.cells = layered.layer_cells() - report_.merged;
      const std::vector<int> bad = to_blame(out, columns, m_);
      const bool in_vain = bad.size() >= fewest && is_sound(out);
      if (bad.empty() || in_vain || finish == most_finishes || !give_way_at(bad, columns)) break;
      fewest = std::min(fewest, bad.size());
    }
    VolumeMesh room = m_;
    room.points = plan_.core_points();
    report_.parts = report_of(m_, room, rows_, plan_, options_).parts;
    m_ = std::move(out);
    return report_;
  }

 private:
  /// Thinner layers at these points, in the end none, and so at those that are bad in turn when
  /// their surroundings are built again.
  /// @return false if nothing has changed
  bool give_way_at(std::vector<int> bad, const Columns& whole) {
    bool any = false;
    std::size_t fewest = bad.size() + 1;
    for (int in_vain = 0; !bad.empty() && in_vain < most_in_vain; ++report_.rounds) {
      progress_.check();
      const bool gentle = report_.rounds < gentle_rounds;
      if (!plan_.shrink(bad, gentle ? 0.5 : 0)) break;
      any = true;
      plan_.smooth();
      const Columns columns(plan_, plan_.core_points());
      const std::vector<char> judged = changed_points(whole, columns);
      const std::vector<char> region = cells_around(judged);
      VolumeMesh piece = LayeredMesh(m_, plan_, edges_, columns, &region).build();
      piece.derive();
      merge_bad_cells(piece);
      bad = to_blame(piece, columns, m_, judged);
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
  std::vector<char> changed_points(const Columns& before, const Columns& now) const {
    std::vector<char> changed(m_.points.size());
    parallel_for(
        changed.size(),
        [&](std::size_t p) { changed[p] = !(before.points()[p] == now.points()[p]); }, 8192);
    for (const WallPoint& w : plan_.wall_points())
      changed[at(w.point)] |= before.layers(w.point) != now.layers(w.point);
    return changed;
  }
  /// Cells at these points, and some rings of cells more, so that cells are merged there as they
  /// will be in the whole mesh.
  std::vector<char> cells_around(const std::vector<char>& points) const {
    constexpr int rings = 3;
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
