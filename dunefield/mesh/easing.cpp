#include <dunefield/mesh/easing.hpp>

#include <algorithm>

#include <dunefield/mesh/mender.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr int most_rounds = 6;

std::size_t at(int i) { return static_cast<std::size_t>(i); }

/// Moves points and keeps the derived arrays true around them.
class Easer {
 public:
  Easer(VolumeMesh& m, const std::vector<Vec3>& safe) : m_(m), safe_(safe), rows_(faces_of_cells(m)) {}

  int sweep() {
    find_points();
    int moved = 0;
    for (std::size_t k = 0; k < points_.size(); ++k) {
      const std::vector<int> cells = cells_at(faces_at_[k]), around = faces_of(cells);
      const Vec3 from = m_.points[at(points_[k])], to = safe_[at(points_[k])];
      const double before = worst(around);
      double least = before * 0.999, best = 0;
      if (!(before > 1)) continue;
      for (const double share : {0.25, 0.5, 0.75, 1.0}) {
        place(k, from + (to - from) * share, cells);
        if (const double now = worst(around); now < least) least = now, best = share;
        if (least <= 1) break;
      }
      place(k, from + (to - from) * best, cells);
      moved += best > 0;
    }
    return moved;
  }

 private:
  /// Points of the cells beside bad faces, and the faces that they are on.
  void find_points() {
    std::vector<char> bad(at(m_.faces())), wanted(m_.points.size(), 0);
    parallel_for(bad.size(), [&](std::size_t f) { bad[f] = face_badness(m_, static_cast<int>(f)) > 1; }, 4096);
    const auto visit = [&](int f, auto&& act) {
      for (int k = m_.face_start[at(f)]; k < m_.face_start[at(f) + 1]; ++k) act(m_.face_points[at(k)]);
    };
    for (int f = 0; f < m_.faces(); ++f)
      if (bad[at(f)])
        for (const int g : faces_of(cells_at({f}))) visit(g, [&](int p) { wanted[at(p)] = norm2(safe_[at(p)] - m_.points[at(p)]) > 0; });
    points_.clear();
    std::vector<int> slot(m_.points.size(), -1);
    for (std::size_t p = 0; p < wanted.size(); ++p)
      if (wanted[p]) slot[p] = static_cast<int>(points_.size()), points_.push_back(static_cast<int>(p));
    faces_at_.assign(points_.size(), {});
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
    for (const int c : cells) faces.insert(faces.end(), rows_.face.begin() + rows_.start[at(c)], rows_.face.begin() + rows_.start[at(c) + 1]);
    return distinct(faces);
  }
  static std::vector<int> distinct(std::vector<int>& list) {
    std::sort(list.begin(), list.end());
    list.erase(std::unique(list.begin(), list.end()), list.end());
    return std::move(list);
  }
  double worst(const std::vector<int>& faces) const {
    double bad = 0;
    for (const int f : faces) bad = std::max(bad, face_badness(m_, f));
    return bad;
  }
  void place(std::size_t k, const Vec3& where, const std::vector<int>& cells) {
    m_.points[at(points_[k])] = where;
    for (const int f : faces_at_[k]) {
      const PolygonMeasure p = measure_polygon(m_.points, &m_.face_points[at(m_.face_start[at(f)])], m_.face_start[at(f) + 1] - m_.face_start[at(f)]);
      m_.face_area[at(f)] = p.area, m_.face_centre[at(f)] = p.centre;
    }
    for (const int c : cells) {
      const CellMeasure body = measure_cell(m_, rows_, c);
      m_.cell_centre[at(c)] = body.centre, m_.cell_volume[at(c)] = body.volume;
    }
  }

  VolumeMesh& m_;
  const std::vector<Vec3>& safe_;
  CellFaces rows_;
  std::vector<int> points_;
  std::vector<std::vector<int>> faces_at_;
};

}  // namespace

int ease_bad_faces(VolumeMesh& mesh, const std::vector<Vec3>& safe) {
  int moved = 0;
  for (int round = 0; round < most_rounds; ++round) {
    const int now = Easer(mesh, safe).sweep();
    if (now == 0) break;
    moved += now;
  }
  return moved;
}

}  // namespace dunefield
