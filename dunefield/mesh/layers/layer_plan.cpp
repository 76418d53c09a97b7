#include <dunefield/mesh/layers/layer_plan.hpp>

#include <algorithm>
#include <numeric>
#include <unordered_map>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/repair/sound_moves.hpp>
#include <dunefield/mesh/wall_triangles.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double widest = 0.7;  // of the wall's edge length: thickness of all layers at most
// where they grow faster to meet a high core cell: growth over that asked for, and thickness
constexpr double steepest = 1.4, widest_steep = 1.05;
constexpr double wanted_step = 0.42;  // height of the last layer over that of the core cell behind
constexpr double share_of_gap = 0.4;
// cosine: a direction that a face at the point sees under a flatter angle carries no layers
constexpr double least_visible = 0.25;
// Layers are made thinner down to a share of their heights, then fewer. Thin ones change their
// number rather than their heights: the cell on a foot whose layer is twice as high at one side as
// at the other has its centre off the middle, by more than its own height if that is small.
constexpr double thinnest_of_thin = 0.8;
constexpr double thick = 0.12, thin = 0.06;  // first height in leaves: where that changes
// growth: thin layers keep their first height and grow less where there is little room
constexpr double flattest_of_thin = 1.1;
// of the core cell's height: a lower last layer would make the face between them one-sided
constexpr double least_last = 0.065;
constexpr double least_only = 0.1;  // of the leaf: a single layer
constexpr double apart = 0.5;  // of their distance: so much columns may come nearer to each other
// of the leaf: over shorter distances directions are not told well enough
constexpr double apart_from = 0.25;

// T_i <= max(1.3 T_j, T_j + 0.4 leaf) between points of a face
constexpr double steeper = 1.3, slope = 0.4;
// Of a cell on a foot of side s whose height h changes by dh the centre is off the middle by s dh /
// 12 h: no more than about its height if the first heights of neighbours differ by no more than
// this times their own, in leaves.
constexpr double tilt_of_first = 10;

/// The direction that all normals see as well as can be: blended towards the one that sees it
/// worst.
Vec3 most_visible(const std::vector<Vec3>& normals, double& least) {
  Vec3 n;
  for (const Vec3& v : normals) n += v;
  n = unit(n);
  const auto worst = [&](const Vec3& d) {
    std::size_t k = 0;
    for (std::size_t i = 1; i < normals.size(); ++i)
      if (dot(normals[i], d) < dot(normals[k], d)) k = i;
    return k;
  };
  Vec3 best = n;
  least = dot(normals[worst(n)], n);
  for (int i = 0; i < 20; ++i) {
    n = unit(n + normals[worst(n)] * (0.4 / (1 + 0.3 * i)));
    if (const double d = dot(normals[worst(n)], n); d > least) least = d, best = n;
  }
  return best;
}

}  // namespace

double LayerOptions::sum(double growth, int n) {
  double sum = 0, h = 1;
  for (int k = 0; k < n; ++k) sum += h, h *= growth;
  return sum;
}

LayerPlan::LayerPlan(const VolumeMesh& m, const std::vector<double>& leaf, const LayerOptions& o)
    : mesh_(m), options_(o) {
  slot_.assign(m.points.size(), -1);
  held_.assign(m.points.size(), 0);
  bare_.assign(m.points.size(), 0);
  frozen_.assign(m.points.size(), 0);
  for (const Boundary& p : m.boundaries) {
    const bool layered = p.kind == BoundaryKind::part &&
                         std::find(o.without.begin(), o.without.end(), p.name) == o.without.end();
    for (int f = p.first; f < p.first + p.count; ++f) {
      const int first = m.face_start[at(f)], n = m.face_start[at(f) + 1] - first;
      if (layered) faces_.push_back(f);
      const Vec3 normal = unit(measure_polygon(m.points, &m.face_points[at(first)], n).area);
      for (int k = 0; k < n; ++k) {
        const int point = m.face_points[at(first + k)];
        if (layered && slot_[at(point)] < 0) {
          slot_[at(point)] = static_cast<int>(wall_.size());
          wall_.emplace_back().point = point;
        }
        if (p.kind == BoundaryKind::part)
          bare_[at(point)] |= !layered;
        else
          for (int axis = 0; axis < 3; ++axis)
            if (std::abs(normal[axis]) > 0.99)
              held_[at(point)] |= static_cast<std::uint8_t>(1 << axis);
      }
    }
  }
  find_directions();
  set_targets(leaf);
  keep_apart();
  measure_gaps();
  rank_core();
  smooth();
  find_shares();
}

void LayerPlan::find_directions() {
  std::vector<std::vector<Vec3>> normals(wall_.size());
  // of wall edges: more than two make the surface unclear there
  std::unordered_map<std::uint64_t, int> uses;
  uses.reserve(faces_.size() * 3);
  for (const int f : faces_) {
    const int first = mesh_.face_start[at(f)], n = mesh_.face_start[at(f) + 1] - first;
    const Vec3 inward = -unit(measure_polygon(mesh_.points, &mesh_.face_points[at(first)], n).area);
    for (int k = 0; k < n; ++k) {
      const int a = mesh_.face_points[at(first + k)],
                b = mesh_.face_points[at(first + (k + 1) % n)];
      normals[at(slot_[at(a)])].push_back(inward);
      if (++uses[static_cast<std::uint64_t>(std::min(a, b)) << 32 |
                 static_cast<std::uint32_t>(std::max(a, b))] > 2)
        for (const int p : {a, b})
          bare_[at(p)] = 1, wall_[at(slot_[at(p)])].end = LayersEnd::corner;
    }
  }
  parallel_for(
      wall_.size(),
      [&](std::size_t i) {
        WallPoint& w = wall_[i];
        double visible = 0;
        w.direction = most_visible(normals[i], visible);
        for (int axis = 0; axis < 3; ++axis)
          if (fixed(w.point, axis)) w.direction[axis] = 0;
        if (norm(w.direction) < 0.3) visible = -1;
        w.direction = unit(w.direction);
        for (const Vec3& n : normals[i]) visible = std::min(visible, dot(n, w.direction));
        w.stretch = 1 / std::clamp(visible, 0.6, 1.0);
        if (bare_[at(w.point)] && w.end == LayersEnd::sizes) w.end = LayersEnd::without;
        if (visible < least_visible) bare_[at(w.point)] = 1, w.end = LayersEnd::corner;
      },
      256);
}

void LayerPlan::set_targets(const std::vector<double>& leaf) {
  for (WallPoint& w : wall_) w.leaf = leaf[at(w.point)], w.first = options_.first_at(w.leaf);
  flatten(
      [](auto& w) -> auto& { return w.first; },
      [](const WallPoint&, const WallPoint& lower, double) {
        return std::min(steeper, 1 + tilt_of_first * lower.first / lower.leaf) * lower.first;
      },
      false);
  for (WallPoint& w : wall_)
    w.room = bare_[at(w.point)]
                 ? 0
                 : std::min(w.first * options_.sum(options_.count), widest * w.leaf / w.stretch);
  meet_core();
}

/// Behind a high core cell the layers grow faster, so that the last of them is not too thin beside
/// it.
void LayerPlan::meet_core() {
  const CellFaces rows = faces_of_cells(mesh_);
  std::vector<char> walls(at(mesh_.cells), 0);
  for (const int f : faces_)
    walls[at(mesh_.cell_below[at(f)])] += walls[at(mesh_.cell_below[at(f)])] < 2;
  // of the core cell on each wall face; around an edge it has none
  std::vector<double> height(faces_.size());
  parallel_for(
      faces_.size(),
      [&](std::size_t i) {
        const int f = faces_[i], first = mesh_.face_start[at(f)];
        double volume = 0;
        if (walls[at(mesh_.cell_below[at(f)])] > 1) return;
        cell_soundness(mesh_, rows, mesh_.cell_below[at(f)], &volume);
        height[i] = volume / norm(measure_polygon(mesh_.points, &mesh_.face_points[at(first)],
                                                  mesh_.face_start[at(f) + 1] - first)
                                      .area);
      },
      256);
  std::vector<double> highest(wall_.size(), 0);
  for (std::size_t i = 0; i < faces_.size(); ++i)
    for (int k = mesh_.face_start[at(faces_[i])]; k < mesh_.face_start[at(faces_[i]) + 1]; ++k) {
      double& h = highest[at(slot_[at(mesh_.face_points[at(k)])])];
      h = std::max(h, height[i]);
    }
  const int n = options_.count;
  parallel_for(
      wall_.size(),
      [&](std::size_t i) {
        WallPoint& w = wall_[i];
        w.core = std::min(highest[i], 1.5 * w.leaf);  // a wall face may be next to nothing
        constexpr int tries = 12;
        // of the layers' thickness: by that the core cell becomes lower
        constexpr double squeezed = 1.0 / core_rings;
        double growth = options_.growth;
        for (int k = 0; k <= tries; ++k) {
          growth = options_.growth * (1 + (steepest - 1) * k / tries);
          if (w.first * std::pow(growth, n - 1) >=
              wanted_step * (highest[i] - squeezed * w.first * LayerOptions::sum(growth, n)))
            break;
        }
        if (w.room > 0)
          w.room = std::max(w.room, std::min(w.first * LayerOptions::sum(growth, n),
                                             widest_steep * w.leaf / w.stretch));
      },
      256);
}

void LayerPlan::limit_room(WallPoint& w, double most, LayersEnd why) {
  if (most < w.room) w.room = most, w.end = why;
}

void LayerPlan::keep_apart() {
  for (const int f : faces_)
    for (int first = mesh_.face_start[at(f)], last = mesh_.face_start[at(f) + 1], k = first,
             before = last - 1;
         k < last; before = k++) {
      WallPoint &a = wall_[at(slot_[at(mesh_.face_points[at(before)])])],
                &b = wall_[at(slot_[at(mesh_.face_points[at(k)])])];
      const Vec3 way = mesh_.points[at(b.point)] - mesh_.points[at(a.point)];
      const double closing = dot(a.direction * a.stretch - b.direction * b.stretch, unit(way));
      if (closing > 0 && norm(way) > apart_from * a.leaf)
        for (WallPoint* w : {&a, &b}) limit_room(*w, apart * norm(way) / closing, LayersEnd::dent);
    }
}

LayerPlan::Squeeze LayerPlan::squeezed(const WallPoint& w, int n) const {
  const double share = std::clamp((w.first / w.leaf - thin) / (thick - thin), 0.0, 1.0);
  const double first = (thinnest_of_thin + (thinnest - thinnest_of_thin) * share) * w.first,
               most = options_.growth;
  if (n == 1) return {std::max(first, least_only * w.leaf), most};
  const double last = least_last * std::max(w.core, 0.5 * w.leaf),
               flattest = most + (1 - share) * (std::min(flattest_of_thin, most) - most);
  const double growth =
      std::clamp(std::pow(last / std::max(first, 1e-300), 1.0 / (n - 1)), flattest, most);
  return {LayerOptions::sum(growth, n) * std::max(first, last / std::pow(growth, n - 1)), growth};
}

/// Lowers values until no point of a wall face is above the limit that another point of the face
/// sets, given their distance.
/// @param takes_end whether a point that is lowered ends for the other's cause
template <class Value, class Limit>
void LayerPlan::flatten(const Value& value, const Limit& limit, bool takes_end) {
  // A face is looked at again only when one of its points has changed since: visits count the time.
  std::vector<int> changed_at(wall_.size(), 0), seen_at(faces_.size(), -1);
  int now = 0;
  const auto any_changed = [&](std::size_t i) {
    const int f = faces_[i];
    return std::any_of(mesh_.face_points.begin() + mesh_.face_start[at(f)],
                       mesh_.face_points.begin() + mesh_.face_start[at(f) + 1],
                       [&](int p) { return changed_at[at(slot_[at(p)])] > seen_at[i]; });
  };
  for (bool changed = true; changed;) {
    changed = false;
    for (std::size_t i = 0; i < faces_.size(); ++i) {
      if (!any_changed(i)) continue;
      const int f = faces_[i], first = mesh_.face_start[at(f)], last = mesh_.face_start[at(f) + 1];
      seen_at[i] = ++now;
      for (int k = first; k < last; ++k)
        for (int l = first; l < last; ++l) {
          WallPoint& w = wall_[at(slot_[at(mesh_.face_points[at(k)])])];
          const WallPoint& other = wall_[at(slot_[at(mesh_.face_points[at(l)])])];
          if (!(value(other) < value(w))) continue;
          const auto most =
              limit(w, other, norm(mesh_.points[at(w.point)] - mesh_.points[at(other.point)]));
          if (!(value(w) > most * (1 + 1e-9))) continue;
          if (takes_end) w.end = other.end;
          value(w) = most, changed_at[at(slot_[at(w.point)])] = ++now, changed = true;
        }
    }
  }
}

void LayerPlan::measure_gaps() {
  const WallTriangles walls = wall_triangles(mesh_, [](const Boundary& p) {
    return p.kind == BoundaryKind::part || p.kind == BoundaryKind::road;
  });
  const RayScene rays(walls.surface);
  const auto holds = [&](int f, int point) {
    const auto first = mesh_.face_points.begin() + mesh_.face_start[at(f)],
               last = mesh_.face_points.begin() + mesh_.face_start[at(f) + 1];
    return std::find(first, last, point) != last;
  };
  parallel_for(
      wall_.size(),
      [&](std::size_t i) {
        WallPoint& w = wall_[i];
        if (!(w.room > 0)) return;
        const double reach = 3 * w.room + w.leaf;
        const Vec3& foot = mesh_.points[at(w.point)];
        double start = 0.02 * w.leaf;
        for (int own = 0; own < 8; ++own) {  // warped faces at the point itself may lie in the way
          const auto hit =
              rays.first_crossing(foot + w.direction * start, foot + w.direction * reach);
          if (!hit) return;
          const double gap = start + hit->distance;
          if (!holds(walls.face_of[at(hit->triangle)], w.point)) {
            limit_room(w, share_of_gap * gap / w.stretch, LayersEnd::gap);
            return;
          }
          start = gap + 1e-3 * w.leaf;
        }
      },
      64);
}

double LayerPlan::height(const WallPoint& w, int k) const {
  if (w.layers == 0) return 0;
  return LayerOptions::sum(w.growth, std::min(k, w.layers)) /
         LayerOptions::sum(w.growth, w.layers) * w.thickness * w.stretch;
}

void LayerPlan::smooth() {
  for (WallPoint& w : wall_) w.thickness = w.room;
  flatten(
      [](auto& w) -> auto& { return w.thickness; },
      [](const WallPoint&, const WallPoint& lower, double distance) {
        return std::max(steeper * lower.thickness, lower.thickness + slope * distance);
      },
      true);
  for (WallPoint& w : wall_)
    for (w.layers = options_.count; w.layers > 0 && squeezed(w, w.layers).thickness > w.thickness;)
      --w.layers;
  do
    flatten(
        [](auto& w) -> auto& { return w.layers; },
        [&](const WallPoint& w, const WallPoint& lower, double) {
          return most_beside(w, lower.layers);
        },
        true);
  while (cut_splinters());
  for (WallPoint& w : wall_) {
    if (w.layers == 0) w.thickness = 0;
    w.growth = growth_to(w);
  }
}

/// The growth with which the layers fill their thickness from the first height wanted, within
/// bounds.
double LayerPlan::growth_to(const WallPoint& w) const {
  if (w.layers < 2) return options_.growth;
  double least = squeezed(w, w.layers).growth, most = steepest * options_.growth;
  const auto too_thin = [&](double growth) {
    return LayerOptions::sum(growth, w.layers) <
           w.thickness / std::max(w.first, 1e-300) * (1 - 1e-9);
  };
  if (!too_thin(least)) return least;
  while (most - least > 1e-6)
    if (const double growth = 0.5 * (least + most); too_thin(growth))
      least = growth;
    else
      most = growth;
  return most;
}

double LayerPlan::even_height(const WallPoint& w, int below, int n) const {
  return w.thickness * std::pow(options_.growth, below) / options_.sum(n);
}

/// Layers that end beside a point are wedges, whose centres lie a sixth of their length off those
/// of the cells below: they must not be too thin for that, and the first least of all.
int LayerPlan::most_beside(const WallPoint& w, int fewer) const {
  constexpr double thinnest_wedge = 0.12, thinnest_first = 0.2;  // leaves
  int n = fewer + 1;
  const double lowest = (fewer > 0 ? thinnest_wedge : thinnest_first) * w.leaf;
  while (n < options_.count && even_height(w, fewer, n + 1) >= lowest) ++n;
  return n;
}

bool LayerPlan::cut_splinters() {
  constexpr double thinnest_corner = 0.1;  // leaves
  bool any = false;
  for (bool changed = true; changed;) {
    changed = false;
    for (const int f : faces_) {
      const int first = mesh_.face_start[at(f)], last = mesh_.face_start[at(f) + 1];
      const auto layers = [&](int k) -> int& {
        return wall_[at(slot_[at(mesh_.face_points[at(k)])])].layers;
      };
      int most = 0, raised = 0;
      for (int k = first; k < last; ++k) most = std::max(most, layers(k));
      for (int k = first; k < last; ++k) raised += layers(k) == most;
      if (most == 0 || 3 * raised >= last - first) continue;
      for (int k = first; k < last; ++k) {
        const WallPoint& w = wall_[at(slot_[at(mesh_.face_points[at(k)])])];
        if (layers(k) == most && even_height(w, most - 1, most) < thinnest_corner * w.leaf)
          --layers(k), changed = any = true;
      }
    }
  }
  return any;
}

}  // namespace dunefield
