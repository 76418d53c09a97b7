// How the core makes room for the layers, and gives the wall less to carry where it cannot.
#include <algorithm>
#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/layers/layer_plan.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

/// Neighbours over the edges of all faces.
void LayerPlan::index_neighbours() {
  const std::size_t points = mesh_.points.size();
  const auto for_edges = [&](auto&& act) {
    for (int f = 0; f < mesh_.faces(); ++f)
      for (int first = mesh_.face_start[at(f)], last = mesh_.face_start[at(f) + 1], k = first,
               before = last - 1;
           k < last; before = k++)
        act(at(mesh_.face_points[at(before)]), at(mesh_.face_points[at(k)]));
  };
  std::vector<int> start(points + 1, 0);
  for_edges([&](std::size_t a, std::size_t b) { ++start[a + 1], ++start[b + 1]; });
  std::partial_sum(start.begin(), start.end(), start.begin());
  std::vector<int> all(at(start.back())), end(start.begin(), start.end() - 1);
  for_edges([&](std::size_t a, std::size_t b) {
    all[at(end[a]++)] = static_cast<int>(b), all[at(end[b]++)] = static_cast<int>(a);
  });
  parallel_for(
      points,
      [&](std::size_t p) {  // each edge is part of several faces
        std::sort(all.begin() + start[p], all.begin() + end[p]);
        end[p] = static_cast<int>(std::unique(all.begin() + start[p], all.begin() + end[p]) -
                                  all.begin());
      },
      1024);
  neighbour_start_.assign(1, 0);
  for (std::size_t p = 0; p < points; ++p) {
    neighbours_.insert(neighbours_.end(), all.begin() + start[p], all.begin() + end[p]);
    neighbour_start_.push_back(static_cast<int>(neighbours_.size()));
  }
}

void LayerPlan::rank_core() {
  index_neighbours();
  ring_.assign(mesh_.points.size(), -1);
  std::vector<int> front;
  for (const WallPoint& w : wall_) ring_[at(w.point)] = 0, front.push_back(w.point);
  for (std::size_t p = 0; p < bare_.size(); ++p)
    if (bare_[p] && ring_[p] < 0) ring_[p] = 0;  // walls without layers stay where they are
  for (int r = 1; r <= core_rings; ++r) {
    std::vector<int> reached;
    for (const int p : front)
      for (int k = neighbour_start_[at(p)]; k < neighbour_start_[at(p) + 1]; ++k)
        if (int& ring = ring_[at(neighbours_[at(k)])]; ring < 0)
          ring = r, reached.push_back(neighbours_[at(k)]);
    near_.push_back(reached);
    front = std::move(reached);
  }
}

/// The wall's shifts, carried from ring to ring of the core: each point takes the mean of its
/// neighbours nearer to the wall.
std::vector<Vec3> LayerPlan::carried() const {
  std::vector<Vec3> shift(mesh_.points.size());
  for (const WallPoint& w : wall_) shift[at(w.point)] = w.direction * height(w, w.layers);
  for (std::size_t r = 0; r < near_.size(); ++r)
    parallel_for(
        near_[r].size(),
        [&](std::size_t i) {
          shift[at(near_[r][i])] = mean_of_neighbours(
              near_[r][i], shift, [&](int q) { return ring_[at(q)] == static_cast<int>(r); });
        },
        512);
  return shift;
}

/// Mean over those neighbours that count, the nearer the heavier; held by the boundary planes of
/// the point.
template <class Counts>
Vec3 LayerPlan::mean_of_neighbours(int p, const std::vector<Vec3>& value,
                                   const Counts& counts) const {
  Vec3 sum;
  double weight = 0;
  for (int k = neighbour_start_[at(p)]; k < neighbour_start_[at(p) + 1]; ++k) {
    const int q = neighbours_[at(k)];
    if (!counts(q)) continue;
    const double w = 1 / (norm2(mesh_.points[at(q)] - mesh_.points[at(p)]) + 1e-30);
    sum += value[at(q)] * w, weight += w;
  }
  if (weight > 0) sum *= 1 / weight;
  for (int axis = 0; axis < 3; ++axis)
    if (fixed(p, axis)) sum[axis] = 0;
  return sum;
}

/// How far the core gives way is harmonic between the wall, what cannot move (the road, walls
/// without layers), opposite walls, and the last ring. It is worked out once, for the layers as
/// they are first planned, as a share of what is carried there.
void LayerPlan::find_shares() {
  constexpr int sweeps = 6;  // of Jacobi, from a linear start: smooth is enough
  const std::vector<Vec3> whole = carried();
  std::vector<Vec3> shift = whole;
  share_.assign(shift.size(), 0);
  for (std::size_t r = 0; r < near_.size(); ++r)
    for (const int p : near_[r])
      shift[at(p)] *= share_[at(p)] = (core_rings - static_cast<double>(r) - 1) / core_rings;
  std::vector<int> inner;
  for (std::size_t r = 0; r + 1 < near_.size(); ++r)
    inner.insert(inner.end(), near_[r].begin(), near_[r].end());
  std::vector<Vec3> next(inner.size());
  for (int sweep = 0; sweep < sweeps; ++sweep) {
    parallel_for(
        inner.size(),
        [&](std::size_t i) {
          next[i] = mean_of_neighbours(inner[i], shift, [](int) { return true; });
        },
        2048);
    parallel_for(
        inner.size(), [&](std::size_t i) { shift[at(inner[i])] = next[i]; }, 8192);
  }
  for (const int p : inner)
    if (const double size2 = norm2(whole[at(p)]); size2 > 0)
      share_[at(p)] = std::clamp(dot(shift[at(p)], whole[at(p)]) / size2, 0.0, 1.0);
}

std::vector<Vec3> LayerPlan::core_points() const {
  std::vector<Vec3> shift = carried();
  parallel_for(
      shift.size(),
      [&](std::size_t p) {
        const double share = ring_[p] == 0 ? 1 : frozen_[p] ? 0 : share_[p];
        shift[p] = mesh_.points[p] + shift[p] * share;
      },
      8192);
  return shift;
}

int LayerPlan::towards_wall(int p) const {
  while (ring_[at(p)] > 1) {
    int nearer = -1;
    for (int k = neighbour_start_[at(p)]; k < neighbour_start_[at(p) + 1] && nearer < 0; ++k)
      if (ring_[at(neighbours_[at(k)])] == ring_[at(p)] - 1) nearer = neighbours_[at(k)];
    if (nearer < 0) break;
    p = nearer;
  }
  return p;
}

bool LayerPlan::shrink(const std::vector<int>& points, double factor) {
  std::vector<int> roots;
  bool any = false;
  for (int p : points) {
    p = towards_wall(p);
    if (ring_[at(p)] > 1 || ring_[at(p)] < 0) continue;
    if (ring_[at(p)] == 0) roots.push_back(p);
    if (ring_[at(p)] == 1)
      for (int k = neighbour_start_[at(p)]; k < neighbour_start_[at(p) + 1]; ++k)
        if (ring_[at(neighbours_[at(k)])] == 0) roots.push_back(neighbours_[at(k)]);
  }
  std::sort(roots.begin(), roots.end());
  roots.erase(std::unique(roots.begin(), roots.end()), roots.end());
  if (factor == 0)
    for (const int p : points) any = any || !frozen_[at(p)], frozen_[at(p)] = 1;
  for (const int p : roots) {
    if (slot_[at(p)] < 0) continue;
    WallPoint& w = wall_[at(slot_[at(p)])];
    if (w.layers == 0) continue;
    // without faster growth, if that is all
    const double even = w.first * options_.sum(options_.count);
    w.room = factor > 0 && w.thickness > 1.001 * even ? even : factor * w.thickness;
    if (w.room < thinnest * w.first) w.room = 0;
    w.end = LayersEnd::bad_cells;
    any = true;
  }
  return any;
}

}  // namespace dunefield
