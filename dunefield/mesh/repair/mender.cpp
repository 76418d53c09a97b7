#include <dunefield/mesh/repair/mender.hpp>

#include <algorithm>
#include <array>
#include <numeric>
#include <span>
#include <unordered_map>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// Well inside the limits that a good mesh keeps: wedges where layers end, 80 degrees oblique, made
// the flow diverge. Of the nearer centre's distance from the face over that of both; of volumes,
// smaller over larger; of face and line of centres; of the offset over that line's length.
constexpr double least_nearness = 0.055, least_of_volumes = 0.022, least_cosine = 0.28,
                 largest_offset = 1.5;
constexpr int most_rounds = 6;       // bounds the time; what is left then is told as bad cells
constexpr int least_neighbours = 3;  // with fewer no gradient stands on its own
constexpr double lonely = 1.5;       // how bad fewer are
constexpr double unsound = 1e6;
// A wedge or a tetrahedron beside a cell of more than eleven times its volume: of all cells of a
// van at `scout`, those on which velocity ran away were such.
constexpr std::size_t few_faces = 5;
constexpr double least_of_few = 0.09;  // of volumes

double badness(const Vec3& area, const Vec3& middle, const CellMeasure& below,
               const CellMeasure* above, double wall_cosine = least_wall_cosine) {
  const Vec3 n = unit(area), to = above ? above->centre : middle, d = to - below.centre;
  const double h_below = dot(n, middle - below.centre), length = norm(d), across = dot(n, d);
  if (!(h_below > 0) || !(length > 0)) return unsound;
  const double angle =
      across > 0 ? (above ? least_cosine : wall_cosine) * length / across : unsound;
  if (!above) return angle;
  const double h_above = dot(n, above->centre - middle);
  if (!(h_above > 0)) return unsound;
  const double nearness = std::min(h_below, h_above) / (h_below + h_above);
  const double volumes =
      std::min(below.volume, above->volume) / std::max(below.volume, above->volume);
  const double offset = norm(below.centre + d * (h_below / across) - middle) / length;
  return std::max(
      {angle, least_nearness / nearness, least_of_volumes / volumes, offset / largest_offset});
}

/// Merges in place: of two cells the one with the lower number goes on, and takes over the other's
/// faces. Cells and faces that vanished are dropped at the end.
class Mender {
 public:
  explicit Mender(VolumeMesh& m)
      : m_(m),
        rows_(faces_of_cells(m)),
        gone_(at(m.cells), 0),
        look_(at(m.faces()), 1),
        taken_(at(m.cells), 0) {}

  int merge() {
    int merged = 0;
    for (int round = 0; round < most_rounds; ++round) {
      const int now = sweep();
      if (now == 0) break;
      merged += now;
    }
    if (merged > 0) drop_what_vanished();
    return merged;
  }

 private:
  enum Look : char { leave, ask, dead };

  /// Merges what can be merged in one go, neighbours of merged cells left alone.
  int sweep() {
    std::vector<int> changed;
    for (const auto& [bad, f] : bad_faces()) {
      const int a = m_.cell_below[at(f)], b = f < m_.interior_faces() ? m_.cell_above[at(f)] : a;
      std::pair<int, int> best{-1, -1};
      double least = bad * 0.999;
      for (const int c : {a, b}) {
        if (a == b && best.first >= 0) break;
        for (const int other : neighbours(c)) {
          if (taken_[at(c)] || taken_[at(other)]) continue;
          if (const double score = badness_of_merged(c, other, std::min(least, bad)); score < least)
            least = score, best = {c, other};
        }
      }
      if (best.first < 0) continue;
      const int kept = std::min(best.first, best.second);
      for (const int c : {best.first, best.second})
        for (const int other : neighbours(c)) taken_[at(other)] = 1, untake_.push_back(other);
      unite(kept, std::max(best.first, best.second));
      changed.push_back(kept);
    }
    for (const int c : untake_) taken_[at(c)] = 0;
    untake_.clear();
    for (const int c : changed)
      for (const int f : faces_of(c)) look_[at(f)] = ask;
    return static_cast<int>(changed.size());
  }

  /// Among the faces to look at, worst first; those that are fine are not looked at again.
  std::vector<std::pair<double, int>> bad_faces() {
    std::vector<int> asked;
    for (int f = 0; f < m_.faces(); ++f)
      if (look_[at(f)] == ask) asked.push_back(f);
    std::vector<double> bad(asked.size());
    parallel_for(
        bad.size(),
        [&](std::size_t i) {
          const int f = asked[i];
          bad[i] = std::max(face_badness(m_, f), sliver_badness(f));
          // A cell with two neighbours has no gradient of its own, whatever its faces are like.
          for (const int c : {m_.cell_below[at(f)], f < m_.interior_faces() ? m_.cell_above[at(f)]
                                                                            : m_.cell_below[at(f)]})
            if (faces_of(c).front() == f && !has_neighbours(c, least_neighbours))
              bad[i] = std::max(bad[i], lonely);
        },
        2048);
    std::vector<std::pair<double, int>> out;
    for (std::size_t i = 0; i < bad.size(); ++i) {
      if (bad[i] > 1)
        out.push_back({bad[i], asked[i]});
      else
        look_[at(asked[i])] = leave;
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const auto& a, const auto& b) { return a.first > b.first; });
    return out;
  }

  /// Of a face between a cell with few faces, none of them a wall, and a larger one. (Cells at
  /// walls would take edges of the surface away.)
  double sliver_badness(int f) const {
    if (f >= m_.interior_faces()) return 0;
    const auto [small, large] =
        std::minmax(m_.cell_below[at(f)], m_.cell_above[at(f)],
                    [this](int a, int b) { return m_.cell_volume[at(a)] < m_.cell_volume[at(b)]; });
    const auto faces = faces_of(small);
    if (faces.size() > few_faces || faces.back() >= m_.interior_faces()) return 0;
    return least_of_few * m_.cell_volume[at(large)] / m_.cell_volume[at(small)];
  }

  std::span<const int> faces_of(int c) const {
    if (const auto it = united_.find(c); it != united_.end()) return it->second;
    return {rows_.face.data() + rows_.start[at(c)],
            at(rows_.start[at(c) + 1] - rows_.start[at(c)])};
  }
  CellMeasure body(int c) const { return {m_.cell_centre[at(c)], m_.cell_volume[at(c)]}; }
  int other_side(int f, int c) const {
    return f >= m_.interior_faces()    ? -1
           : m_.cell_below[at(f)] == c ? m_.cell_above[at(f)]
                                       : m_.cell_below[at(f)];
  }
  bool has_neighbours(int c, int enough) const {
    std::array<int, least_neighbours> seen{};
    int count = 0;
    for (const int f : faces_of(c)) {
      const int o = other_side(f, c);
      if (o < 0 || std::find(seen.begin(), seen.begin() + count, o) != seen.begin() + count)
        continue;
      seen[at(count++)] = o;
      if (count == enough) return true;
    }
    return false;
  }
  std::vector<int> neighbours(int c) const {
    std::vector<int> out;
    for (const int f : faces_of(c))
      if (const int o = other_side(f, c);
          o >= 0 && std::find(out.begin(), out.end(), o) == out.end())
        out.push_back(o);
    return out;
  }
  static CellMeasure together(const CellMeasure& a, const CellMeasure& b) {
    return {(a.centre * a.volume + b.centre * b.volume) / (a.volume + b.volume),
            a.volume + b.volume};
  }
  /// The worst face of two cells taken as one; gives up above `limit`.
  double badness_of_merged(int a, int b, double limit) const {
    const CellMeasure both = together(body(a), body(b));
    double worst = 0;
    int faces = 0;
    for (const int c : {a, b})
      for (const int f : faces_of(c)) {
        if (!(worst < limit)) break;
        const int o = other_side(f, c);
        if (o == a || o == b) continue;
        ++faces;
        const Vec3 outward = m_.cell_below[at(f)] == c ? m_.face_area[at(f)] : -m_.face_area[at(f)];
        const CellMeasure other = o >= 0 ? body(o) : CellMeasure{};
        worst = std::max(worst,
                         badness(outward, m_.face_centre[at(f)], both, o >= 0 ? &other : nullptr));
      }
    constexpr int most_faces = 60;
    return faces > most_faces ? unsound : worst;
  }

  void unite(int kept, int lost) {
    const CellMeasure both = together(body(kept), body(lost));
    m_.cell_centre[at(kept)] = both.centre, m_.cell_volume[at(kept)] = both.volume;
    std::vector<int> faces;
    for (const int c : {kept, lost})
      for (const int f : faces_of(c)) {
        if (const int o = other_side(f, c); o == kept || o == lost)
          look_[at(f)] = dead;
        else
          faces.push_back(f);
      }
    for (const int f : faces) {
      if (m_.cell_below[at(f)] == lost)
        m_.cell_below[at(f)] = kept;
      else if (f < m_.interior_faces() && m_.cell_above[at(f)] == lost)
        m_.cell_above[at(f)] = kept;
    }
    std::sort(faces.begin(), faces.end());
    united_[kept] = std::move(faces);
    united_.erase(lost);
    gone_[at(lost)] = 1;
  }

  void drop_what_vanished() {
    std::vector<int> number(at(m_.cells), -1);
    VolumeMesh out;
    for (int c = 0; c < m_.cells; ++c) {
      if (gone_[at(c)]) continue;
      number[at(c)] = out.cells++;
      out.cell_centre.push_back(m_.cell_centre[at(c)]),
          out.cell_volume.push_back(m_.cell_volume[at(c)]);
    }
    out.points = std::move(m_.points), out.boundaries = m_.boundaries;
    out.face_start = {0};
    out.face_start.reserve(at(m_.faces()) + 1), out.face_points.reserve(m_.face_points.size()),
        out.cell_below.reserve(at(m_.faces())), out.cell_above.reserve(at(m_.interior_faces()));
    out.face_area.reserve(at(m_.faces())), out.face_centre.reserve(at(m_.faces()));
    for (const int f : order_of_faces()) {
      int below = number[at(m_.cell_below[at(f)])],
          above = f < m_.interior_faces() ? number[at(m_.cell_above[at(f)])] : -1;
      auto first = m_.face_points.begin() + m_.face_start[at(f)],
           last = m_.face_points.begin() + m_.face_start[at(f) + 1];
      const bool turned = above >= 0 && below > above;
      if (turned) std::swap(below, above), std::reverse(first, last);
      out.cell_below.push_back(below);
      if (above >= 0) out.cell_above.push_back(above);
      out.face_points.insert(out.face_points.end(), first, last);
      out.face_start.push_back(static_cast<int>(out.face_points.size()));
      out.face_area.push_back(turned ? -m_.face_area[at(f)] : m_.face_area[at(f)]);
      out.face_centre.push_back(m_.face_centre[at(f)]);
    }
    int next = out.interior_faces();
    for (Boundary& p : out.boundaries) p.first = next, next += p.count;
    m_ = std::move(out);
  }

  /// Inner faces by their lower, then their higher cell; the others as they are.
  std::vector<int> order_of_faces() const {
    const auto ends = [&](int f) {
      return std::minmax(m_.cell_below[at(f)], m_.cell_above[at(f)]);
    };
    std::vector<int> start(at(m_.cells) + 1, 0);
    for (int f = 0; f < m_.interior_faces(); ++f)
      if (look_[at(f)] != dead) ++start[at(ends(f).first) + 1];
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<int> order(at(start.back())), next(start.begin(), start.end() - 1);
    for (int f = 0; f < m_.interior_faces(); ++f)
      if (look_[at(f)] != dead) order[at(next[at(ends(f).first)]++)] = f;
    for (const auto& [c, faces] : united_)  // all others are in order as they were
      for (const int g : faces)
        if (g < m_.interior_faces()) {
          const int lower = ends(g).first;
          std::stable_sort(order.begin() + start[at(lower)], order.begin() + start[at(lower) + 1],
                           [&](int f, int h) { return ends(f).second < ends(h).second; });
        }
    for (int f = m_.interior_faces(); f < m_.faces(); ++f) order.push_back(f);
    return order;
  }

  VolumeMesh& m_;
  const CellFaces rows_;
  std::unordered_map<int, std::vector<int>> united_;  ///< faces of the cells that took others over
  std::vector<char> gone_;                            ///< per cell
  std::vector<char> look_;                            ///< per face: `Look`
  std::vector<char> taken_;                           ///< per cell: beside a merger of this sweep
  std::vector<int> untake_;
};

}  // namespace

double face_badness(const VolumeMesh& m, int f, double wall_cosine) {
  const int a = m.cell_below[at(f)];
  const CellMeasure below{m.cell_centre[at(a)], m.cell_volume[at(a)]};
  if (f >= m.interior_faces())
    return badness(m.face_area[at(f)], m.face_centre[at(f)], below, nullptr, wall_cosine);
  const int b = m.cell_above[at(f)];
  const CellMeasure above{m.cell_centre[at(b)], m.cell_volume[at(b)]};
  return badness(m.face_area[at(f)], m.face_centre[at(f)], below, &above);
}

int merge_bad_cells(VolumeMesh& mesh) { return Mender(mesh).merge(); }

}  // namespace dunefield
