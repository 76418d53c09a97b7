#include <dunefield/mesh/layers/easing.hpp>

#include <algorithm>
#include <bit>
#include <cstdint>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/repair/mender.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr int most_rounds = 6;        // bounds the time
constexpr double noticeable = 0.999;  // of the badness before: less gained is nothing gained

/// Moves points and keeps the derived arrays true around them. Points that have nothing to do with
/// each other move at the same time.
class Easer {
 public:
  /// @param may_move per point
  /// @param limit of badness, from which on a face counts as bad; @param wall_cosine as in
  /// `face_badness`
  Easer(VolumeMesh& m, const std::vector<char>& may_move, double limit, double wall_cosine)
      : m_(m), rows_(faces_of_cells(m)), limit_(limit), wall_cosine_(wall_cosine) {
    find_points(may_move);
    find_groups();
    in_vain_.assign(points_.size(), 0), changed_.assign(at(m.cells), 0);
  }

  /// How a place is, beside the best one before; `done`: no face is bad with the point there.
  enum class Try { worse, better, done };
  /// Asks `propose(point, scale, try_at)` for each point around bad faces; `try_at` takes a place
  /// and says how it is. `scale` is the side of the smallest cell around the point, m.
  int sweep(const auto& propose) {
    std::vector<char> moved(points_.size(), 0);
    const auto ease = [&](int k) { moved[at(k)] = ease_point(at(k), propose); };
    for (const std::vector<int>& group : groups_) {
      ++now_;
      parallel_for(
          group.size(), [&](std::size_t i) { ease(group[i]); }, 32);
    }
    for (const int k : one_by_one_) ++now_, ease(k);
    return static_cast<int>(std::count(moved.begin(), moved.end(), 1));
  }

 private:
  bool ease_point(std::size_t k, const auto& propose) {
    const auto changed_since = [&](int c) { return changed_[at(c)] > in_vain_[k]; };
    if (in_vain_[k] > 0 && std::none_of(seen_[k].begin(), seen_[k].end(), changed_since))
      return false;
    const std::vector<int>& cells = cells_at_[k];
    const std::vector<int> around = faces_of(cells);
    const double before = sum_of_bad(around);
    in_vain_[k] = now_;
    if (before == 0) return false;
    double least = before * noticeable;
    const Vec3 from = m_.points[at(points_[k])];
    Vec3 best = from;
    propose(points_[k], smallest_side(cells), [&](const Vec3& where) {
      place(k, where, cells);
      const double now = sum_of_bad(around, least);
      if (now >= least) return Try::worse;
      least = now, best = where;
      return now == 0 ? Try::done : Try::better;
    });
    place(k, best, cells);
    const bool moved = norm2(best - from) > 0;
    if (!moved) return false;
    in_vain_[k] = 0;
    for (const int c : cells) changed_[at(c)] = now_;
    return true;
  }
  /// Puts each point into the first group none of whose points writes to a cell that this one
  /// reads, or the other way round.
  void find_groups() {
    std::vector<std::uint64_t> written(at(m_.cells), 0), read(at(m_.cells), 0);
    for (std::size_t k = 0; k < points_.size(); ++k) {
      const std::vector<int>& cells = cells_at_.emplace_back(cells_at(faces_at_[k]));
      const std::vector<int>& seen = seen_.emplace_back(cells_at(faces_of(cells)));
      std::uint64_t taken = 0;
      for (const int c : seen) taken |= written[at(c)];
      for (const int c : cells) taken |= read[at(c)];
      const auto group = static_cast<std::size_t>(std::countr_one(taken));
      if (group == 64) {
        one_by_one_.push_back(static_cast<int>(k));
        continue;
      }
      if (group >= groups_.size()) groups_.resize(group + 1);
      groups_[group].push_back(static_cast<int>(k));
      for (const int c : seen) read[at(c)] |= std::uint64_t{1} << group;
      for (const int c : cells) written[at(c)] |= std::uint64_t{1} << group;
    }
  }
  /// Points of the cells beside bad faces, and the faces that they are on.
  void find_points(const std::vector<char>& may_move) {
    std::vector<char> bad(at(m_.faces())), wanted(m_.points.size(), 0);
    parallel_for(
        bad.size(),
        [&](std::size_t f) {
          bad[f] = face_badness(m_, static_cast<int>(f), wall_cosine_) > limit_;
        },
        4096);
    const auto visit = [&](int f, auto&& act) {
      for (int k = m_.face_start[at(f)]; k < m_.face_start[at(f) + 1]; ++k)
        act(m_.face_points[at(k)]);
    };
    for (int f = 0; f < m_.faces(); ++f)
      if (bad[at(f)])
        for (const int g : faces_of(cells_at({f})))
          visit(g, [&](int p) { wanted[at(p)] = may_move[at(p)]; });
    std::vector<int> slot(m_.points.size(), -1);
    for (std::size_t p = 0; p < wanted.size(); ++p)
      if (wanted[p])
        slot[p] = static_cast<int>(points_.size()), points_.push_back(static_cast<int>(p));
    faces_at_.resize(points_.size());
    for (int f = 0; f < m_.faces(); ++f)
      visit(f, [&](int p) {
        if (slot[at(p)] >= 0) faces_at_[at(slot[at(p)])].push_back(f);
      });
  }
  std::vector<int> cells_at(const std::vector<int>& faces) const {
    std::vector<int> cells;
    for (const int f : faces) {
      cells.push_back(m_.cell_below[at(f)]);
      if (f < m_.interior_faces()) cells.push_back(m_.cell_above[at(f)]);
    }
    return distinct(cells);
  }
  std::vector<int> faces_of(const std::vector<int>& cells) const {
    std::vector<int> faces;
    for (const int c : cells)
      faces.insert(faces.end(), rows_.face.begin() + rows_.start[at(c)],
                   rows_.face.begin() + rows_.start[at(c) + 1]);
    return distinct(faces);
  }
  static std::vector<int> distinct(std::vector<int>& list) {
    std::sort(list.begin(), list.end());
    list.erase(std::unique(list.begin(), list.end()), list.end());
    return std::move(list);
  }
  double smallest_side(const std::vector<int>& cells) const {
    double least = 1e300;
    for (const int c : cells) least = std::min(least, m_.cell_volume[at(c)]);
    return std::cbrt(least);
  }
  /// Of cubes, so that the worst face counts most without the others being forgotten. What the
  /// mender would not tolerate comes first. From `enough` on the rest is not looked at.
  double sum_of_bad(const std::vector<int>& faces, double enough = 1e300) const {
    constexpr double first = 1e3;  // any large number: an order, not a measure
    double sum = 0;
    for (const int f : faces) {
      if (sum >= enough) break;
      const double bad = face_badness(m_, f, wall_cosine_),
                   untolerated =
                       f < m_.interior_faces() ? bad : bad * least_wall_cosine / wall_cosine_;
      if (bad > limit_) sum += bad * bad * bad;
      if (untolerated > 1) sum += first * untolerated * untolerated * untolerated;
    }
    return sum;
  }
  void place(std::size_t k, const Vec3& where, const std::vector<int>& cells) {
    m_.points[at(points_[k])] = where;
    for (const int f : faces_at_[k]) {
      const PolygonMeasure p = measure_polygon(m_.points, &m_.face_points[at(m_.face_start[at(f)])],
                                               m_.face_start[at(f) + 1] - m_.face_start[at(f)]);
      m_.face_area[at(f)] = p.area, m_.face_centre[at(f)] = p.centre;
    }
    for (const int c : cells) {
      const CellMeasure body = measure_cell(m_, rows_, c);
      m_.cell_centre[at(c)] = body.centre, m_.cell_volume[at(c)] = body.volume;
    }
  }

  VolumeMesh& m_;
  CellFaces rows_;
  double limit_, wall_cosine_;
  std::vector<int> points_;
  std::vector<std::vector<int>> faces_at_, cells_at_;  ///< of each point
  std::vector<std::vector<int>> seen_;                 ///< cells that its badness depends on
  std::vector<std::vector<int>> groups_;
  std::vector<int> one_by_one_;  ///< that found no group
  // What was tried in vain is not tried again before something there has changed. Groups count the
  // time.
  int now_ = 0;
  std::vector<int> in_vain_;  ///< when, per point; 0: not
  std::vector<int> changed_;  ///< when last, per cell
};

int in_rounds(const auto& sweep) {
  int moved = 0;
  for (int round = 0; round < most_rounds; ++round) {
    const int now = sweep();
    if (now == 0) break;
    moved += now;
  }
  return moved;
}

constexpr char all_coordinates = 7;

/// Per point which of x, y and z it must keep, as bits: all on the vehicle, the normal one on the
/// tunnel's sides. Points of bad faces that lie wholly on the vehicle, in wedges that the mesh has
/// bridged, may move as if there were none.
std::vector<char> kept_coordinates(const VolumeMesh& m) {
  std::vector<char> by_tunnel(m.points.size(), 0), by_vehicle(m.points.size(), 0);
  const auto points_of = [&](int f, const auto& visit) {
    for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k)
      visit(at(m.face_points[at(k)]));
  };
  for (const Boundary& boundary : m.boundaries)
    for (int f = boundary.first; f < boundary.first + boundary.count; ++f) {
      const Vec3 n = unit(m.face_area[at(f)]);
      constexpr double along_axis = 0.999999;
      char bits = all_coordinates;
      for (int i = 0; i < 3; ++i)
        if (std::abs(n[i]) > along_axis) bits = static_cast<char>(1 << i);
      points_of(f, [&](std::size_t p) {
        boundary.kind == BoundaryKind::part ? by_vehicle[p] = all_coordinates
                                            : by_tunnel[p] |= bits;
      });
    }
  std::vector<char> released(m.points.size(), 0);
  for (int f = 0; f < m.faces(); ++f) {
    bool on_walls = true;
    points_of(f, [&](std::size_t p) { on_walls = on_walls && by_vehicle[p]; });
    if (on_walls && face_badness(m, f) > 1) points_of(f, [&](std::size_t p) { released[p] = 1; });
  }
  for (std::size_t p = 0; p < released.size(); ++p)
    if (!released[p]) by_tunnel[p] |= by_vehicle[p];
  return by_tunnel;
}

}  // namespace

int ease_bad_faces(VolumeMesh& mesh, const std::vector<Vec3>& safe) {
  std::vector<char> displaced(safe.size());
  for (std::size_t p = 0; p < safe.size(); ++p) displaced[p] = norm2(safe[p] - mesh.points[p]) > 0;
  Easer easer(mesh, displaced, 1, least_wall_cosine);
  return in_rounds([&] {
    return easer.sweep([&](int point, double, const auto& try_at) {
      const Vec3 from = mesh.points[at(point)], to = safe[at(point)];
      for (const double share : {0.25, 0.5, 0.75, 1.0})
        if (try_at(from + (to - from) * share) == Easer::Try::done) break;
    });
  });
}

int smooth_bad_faces(VolumeMesh& mesh) {
  const std::vector<char> kept = kept_coordinates(mesh);
  std::vector<char> free(kept.size());
  for (std::size_t p = 0; p < kept.size(); ++p) free[p] = kept[p] != all_coordinates;
  // so that an offset of 1 is bad, and 65 degrees between cells and 70 at walls
  constexpr double limit = 0.66, wall_cosine = 0.23;
  Easer easer(mesh, free, limit, wall_cosine);
  return in_rounds([&] {
    return easer.sweep([&](int point, double scale, const auto& try_at) {
      const Vec3 from = mesh.points[at(point)];
      for (const double step : {0.4, 0.2, 0.1, 0.05}) {
        bool better = false;
        for (int i = 0; i < 3; ++i)
          for (const double sign : {1.0, -1.0}) {
            if (kept[at(point)] >> i & 1) continue;
            Vec3 to = from;
            to[i] += sign * step * scale;
            const Easer::Try tried = try_at(to);
            if (tried == Easer::Try::done) return;
            better = better || tried == Easer::Try::better;
          }
        if (better) return;
      }
    });
  });
}

}  // namespace dunefield
