#include <dunefield/mesh/mender.hpp>

#include <algorithm>
#include <array>
#include <numeric>

#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// Well inside the limits that a good mesh keeps: wedges where layers end, 80 degrees oblique, made the flow diverge.
constexpr double least_weight = 0.055, least_ratio = 0.022, least_cosine = 0.28, largest_skewness = 1.5;
constexpr double least_wall_cosine = 0.12;  // the way to the wall counts along its normal alone
constexpr int most_rounds = 6;
constexpr int least_neighbours = 3;
constexpr double lonely = 1.5;  // how bad fewer are
constexpr double unsound = 1e6;

std::size_t at(int i) { return static_cast<std::size_t>(i); }

/// What counts of a cell for its faces.
struct Body {
  Vec3 centre;
  double volume = 0;
};

double badness(const Vec3& area, const Vec3& middle, const Body& below, const Body* above) {
  const Vec3 n = unit(area), to = above ? above->centre : middle, d = to - below.centre;
  const double h_below = dot(n, middle - below.centre), length = norm(d), across = dot(n, d);
  if (!(h_below > 0) || !(length > 0)) return unsound;
  const double angle = across > 0 ? (above ? least_cosine : least_wall_cosine) * length / across : unsound;
  if (!above) return angle;
  const double h_above = dot(n, above->centre - middle);
  if (!(h_above > 0)) return unsound;
  const double weight = std::min(h_below, h_above) / (h_below + h_above);
  const double ratio = std::min(below.volume, above->volume) / std::max(below.volume, above->volume);
  const double skewness = norm(below.centre + d * (h_below / across) - middle) / length;
  return std::max({angle, least_weight / weight, least_ratio / ratio, skewness / largest_skewness});
}

class Mender {
 public:
  explicit Mender(VolumeMesh& m) : m_(m), rows_(faces_of_cells(m)), group_(at(m.cells)) {
    std::iota(group_.begin(), group_.end(), 0);
  }

  /// Merges what can be merged in one sweep, neighbours of merged cells left alone.
  int sweep() {
    std::vector<double> bad(at(m_.faces()));
    parallel_for(bad.size(), [&](std::size_t f) { bad[f] = face_badness(m_, static_cast<int>(f)); }, 4096);
    // A cell with two neighbours has no gradient of its own, whatever its faces are like.
    parallel_for(at(m_.cells), [&](std::size_t c) {
      if (has_neighbours(static_cast<int>(c), least_neighbours)) return;
      double& worst = bad[at(rows_.face[at(rows_.start[c])])];
      worst = std::max(worst, lonely);
    }, 4096);
    std::vector<int> faces;
    for (int f = 0; f < m_.faces(); ++f)
      if (bad[at(f)] > 1) faces.push_back(f);
    std::stable_sort(faces.begin(), faces.end(), [&](int a, int b) { return bad[at(a)] > bad[at(b)]; });
    std::vector<char> taken(at(m_.cells), 0);
    int merged = 0;
    for (const int f : faces) {
      const int a = m_.cell_below[at(f)], b = f < m_.interior_faces() ? m_.cell_above[at(f)] : a;
      std::pair<int, int> best{-1, -1};
      double least = bad[at(f)] * 0.999;
      for (const int c : {a, b}) {
        if (a == b && c == b && best.first >= 0) break;
        for (const int other : neighbours(c)) {
          if (taken[at(c)] || taken[at(other)]) continue;
          if (const double score = badness_of_merged(c, other, std::min(least, bad[at(f)])); score < least) least = score, best = {c, other};
        }
      }
      if (best.first < 0) continue;
      group_[at(std::max(best.first, best.second))] = std::min(best.first, best.second);
      ++merged;
      for (const int c : {best.first, best.second}) {
        taken[at(c)] = 1;
        for (const int other : neighbours(c)) taken[at(other)] = 1;
      }
    }
    if (merged > 0) apply();
    return merged;
  }

 private:
  Body body(int c) const { return {m_.cell_centre[at(c)], m_.cell_volume[at(c)]}; }
  int other_side(int f, int c) const { return f >= m_.interior_faces() ? -1 : m_.cell_below[at(f)] == c ? m_.cell_above[at(f)] : m_.cell_below[at(f)]; }
  bool has_neighbours(int c, int enough) const {
    std::array<int, least_neighbours> seen{};
    int count = 0;
    for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1] && count < enough; ++r)
      if (const int o = other_side(rows_.face[at(r)], c); o >= 0 && std::find(seen.begin(), seen.begin() + count, o) == seen.begin() + count) seen[at(count++)] = o;
    return count >= enough;
  }
  std::vector<int> neighbours(int c) const {
    std::vector<int> out;
    for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1]; ++r)
      if (const int o = other_side(rows_.face[at(r)], c); o >= 0 && std::find(out.begin(), out.end(), o) == out.end()) out.push_back(o);
    return out;
  }
  /// The worst face of two cells taken as one; gives up above `limit`.
  double badness_of_merged(int a, int b, double limit) const {
    const Body ba = body(a), bb = body(b);
    Body both{(ba.centre * ba.volume + bb.centre * bb.volume) / (ba.volume + bb.volume), ba.volume + bb.volume};
    double worst = 0;
    int faces = 0;
    for (const int c : {a, b})
      for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1] && worst < limit; ++r) {
        const int f = rows_.face[at(r)], o = other_side(f, c);
        if (o == a || o == b) continue;
        ++faces;
        const Vec3 outward = m_.cell_below[at(f)] == c ? m_.face_area[at(f)] : -m_.face_area[at(f)];
        const Body other = o >= 0 ? body(o) : Body{};
        worst = std::max(worst, badness(outward, m_.face_centre[at(f)], both, o >= 0 ? &other : nullptr));
      }
    constexpr int most_faces = 60;
    return faces > most_faces ? unsound : worst;
  }

  /// The mesh with each group as one cell.
  void apply() {
    std::vector<int> number(at(m_.cells));
    int cells = 0;
    for (int c = 0; c < m_.cells; ++c) number[at(c)] = group_[at(c)] == c ? cells++ : number[at(group_[at(c)])];
    VolumeMesh out;
    out.points = std::move(m_.points), out.patches = m_.patches, out.cells = cells;
    out.cell_centre.assign(at(cells), Vec3{}), out.cell_volume.assign(at(cells), 0);
    for (int c = 0; c < m_.cells; ++c)
      out.cell_centre[at(number[at(c)])] += m_.cell_centre[at(c)] * m_.cell_volume[at(c)], out.cell_volume[at(number[at(c)])] += m_.cell_volume[at(c)];
    for (int c = 0; c < cells; ++c) out.cell_centre[at(c)] = out.cell_centre[at(c)] / out.cell_volume[at(c)];
    std::vector<int> order;
    for (int f = 0; f < m_.faces(); ++f)
      if (f >= m_.interior_faces() || number[at(m_.cell_below[at(f)])] != number[at(m_.cell_above[at(f)])]) order.push_back(f);
    const auto ends = [&](int f) {
      const int a = number[at(m_.cell_below[at(f)])], b = number[at(m_.cell_above[at(f)])];
      return std::pair{std::min(a, b), std::max(a, b)};
    };
    const auto last_inner = std::find_if(order.begin(), order.end(), [&](int f) { return f >= m_.interior_faces(); });
    const auto before = [&](int f, int g) { return ends(f) < ends(g); };
    // Merging moves few cells' numbers past each other: mostly the faces are in order already.
    if (!std::is_sorted(order.begin(), last_inner, before)) std::stable_sort(order.begin(), last_inner, before);
    out.face_start = {0};
    out.face_start.reserve(order.size() + 1), out.face_points.reserve(m_.face_points.size()), out.cell_below.reserve(order.size()), out.cell_above.reserve(order.size());
    out.face_area.reserve(order.size()), out.face_centre.reserve(order.size());
    for (const int f : order) {
      const int a = number[at(m_.cell_below[at(f)])];
      auto first = m_.face_points.begin() + m_.face_start[at(f)], last = m_.face_points.begin() + m_.face_start[at(f) + 1];
      bool turned = false;
      if (f < m_.interior_faces()) {
        turned = a > number[at(m_.cell_above[at(f)])];
        out.cell_below.push_back(ends(f).first), out.cell_above.push_back(ends(f).second);
      } else {
        out.cell_below.push_back(a);
      }
      if (turned) std::reverse(first, last);
      out.face_points.insert(out.face_points.end(), first, last);
      out.face_start.push_back(static_cast<int>(out.face_points.size()));
      out.face_area.push_back(turned ? -m_.face_area[at(f)] : m_.face_area[at(f)]);
      out.face_centre.push_back(m_.face_centre[at(f)]);
    }
    int next = out.interior_faces();
    for (Patch& p : out.patches) p.first = next, next += p.count;
    m_ = std::move(out);
  }

  VolumeMesh& m_;
  CellFaces rows_;
  std::vector<int> group_;
};

}  // namespace

double face_badness(const VolumeMesh& m, int f) {
  const int a = m.cell_below[at(f)];
  const Body below{m.cell_centre[at(a)], m.cell_volume[at(a)]};
  if (f >= m.interior_faces()) return badness(m.face_area[at(f)], m.face_centre[at(f)], below, nullptr);
  const int b = m.cell_above[at(f)];
  const Body above{m.cell_centre[at(b)], m.cell_volume[at(b)]};
  return badness(m.face_area[at(f)], m.face_centre[at(f)], below, &above);
}

int merge_bad_cells(VolumeMesh& mesh) {
  int merged = 0;
  for (int round = 0; round < most_rounds; ++round) {
    const int now = Mender(mesh).sweep();
    if (now == 0) break;
    merged += now;
  }
  return merged;
}

}  // namespace dunefield
