#include <dunefield/mesh/dual/dents.hpp>

#include <algorithm>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/repair/mender.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

class Dents {
 public:
  explicit Dents(const VolumeMesh& m)
      : m_(m),
        rows_(faces_of_cells(m)),
        boundary_of_(at(m.faces() - m.interior_faces())),
        filled_(at(m.cells), -1) {
    for (std::size_t p = 0; p < m.boundaries.size(); ++p)
      std::fill_n(boundary_of_.begin() + (m.boundaries[p].first - m.interior_faces()),
                  m.boundaries[p].count, static_cast<int>(p));
  }

  void look_at(int cell) {
    if (filled_[at(cell)] >= 0) return;
    const int boundary = wall_of(cell);
    if (boundary < 0 || !can_go(cell)) return;
    filled_[at(cell)] = boundary;
    count(cell);
  }
  /// The cell goes whatever it is; its faces join the wall of the vehicle nearest to it.
  void take(int cell) {
    if (filled_[at(cell)] >= 0) return;
    std::vector<int> reached = {cell};
    for (std::size_t i = 0; i < reached.size() && filled_[at(cell)] < 0; ++i) {
      filled_[at(cell)] = part_at(reached[i]);
      for (const int c : neighbours(reached[i]))
        if (std::find(reached.begin(), reached.end(), c) == reached.end()) reached.push_back(c);
    }
    if (filled_[at(cell)] >= 0) count(cell);
  }
  const FilledDents& report() const { return report_; }
  VolumeMesh mesh() const;

 private:
  void count(int cell) {
    const double volume = m_.cell_volume[at(cell)];
    ++report_.cells, report_.volume += volume;
    if (report_.cells == 1 || volume > largest_)
      largest_ = volume, report_.place = m_.cell_centre[at(cell)];
  }
  /// A boundary of the vehicle at the cell, or -1.
  int part_at(int cell) const {
    for (int r = rows_.start[at(cell)]; r < rows_.start[at(cell) + 1]; ++r)
      if (const int f = rows_.face[at(r)] - m_.interior_faces(); f >= 0)
        if (m_.boundaries[at(boundary_of_[at(f)])].kind == BoundaryKind::part)
          return boundary_of_[at(f)];
    return -1;
  }
  int other_side(int f, int c) const {
    return f >= m_.interior_faces()    ? -1
           : m_.cell_below[at(f)] == c ? m_.cell_above[at(f)]
                                       : m_.cell_below[at(f)];
  }
  /// The boundary that has most of the cell's wall; -1 if less than a third of its surface is wall
  /// of the vehicle, or it lies at another boundary.
  int wall_of(int cell) const {
    constexpr double least_wall = 1.0 / 3;
    int boundary = -1;
    double most = 0, wall = 0, all = 0;
    for (int r = rows_.start[at(cell)]; r < rows_.start[at(cell) + 1]; ++r) {
      const int f = rows_.face[at(r)];
      const double area = norm(m_.face_area[at(f)]);
      all += area;
      if (f < m_.interior_faces()) continue;
      const int p = boundary_of_[at(f - m_.interior_faces())];
      if (m_.boundaries[at(p)].kind != BoundaryKind::part) return -1;
      wall += area;
      if (area > most) most = area, boundary = p;
    }
    return wall > least_wall * all ? boundary : -1;
  }
  /// It is tiny beside one of its neighbours, and air finds its way from each to each of them close
  /// by without it.
  bool can_go(int cell) const {
    constexpr double small = 0.05;  // of the neighbour's volume; volume is lost with it
    constexpr std::size_t most_visited = 500;
    std::vector<int> around = neighbours(cell);
    if (around.empty()) return false;
    double largest = 0;
    for (const int c : around) largest = std::max(largest, m_.cell_volume[at(c)]);
    if (m_.cell_volume[at(cell)] > (around.size() == 1 ? 1 : small) * largest) return false;
    std::vector<int> reached = {cell, around.back()};
    for (std::size_t i = 1; i < reached.size() && reached.size() < most_visited && !around.empty();
         ++i) {
      if (const auto it = std::find(around.begin(), around.end(), reached[i]); it != around.end())
        around.erase(it);
      for (const int c : neighbours(reached[i]))
        if (std::find(reached.begin(), reached.end(), c) == reached.end()) reached.push_back(c);
    }
    return around.empty();
  }
  /// Those that stay.
  std::vector<int> neighbours(int c) const {
    std::vector<int> out;
    for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1]; ++r)
      if (const int o = other_side(rows_.face[at(r)], c);
          o >= 0 && filled_[at(o)] < 0 && std::find(out.begin(), out.end(), o) == out.end())
        out.push_back(o);
    return out;
  }

  const VolumeMesh& m_;
  CellFaces rows_;
  std::vector<int> boundary_of_;
  std::vector<int> filled_;  ///< per cell: the boundary that its faces to other cells join, or -1
  FilledDents report_;
  double largest_ = 0;
};

/// The mesh without the filled cells.
VolumeMesh Dents::mesh() const {
  const VolumeMesh& m = m_;
  std::vector<int> number(at(m.cells), -1);
  VolumeMesh out;
  for (int c = 0; c < m.cells; ++c) {
    if (filled_[at(c)] >= 0) continue;
    number[at(c)] = out.cells++;
    out.cell_centre.push_back(m.cell_centre[at(c)]),
        out.cell_volume.push_back(m.cell_volume[at(c)]);
  }
  out.points = m.points, out.boundaries = m.boundaries, out.face_start = {0};
  const auto add = [&](int f, bool turned) {
    const auto first =
        out.face_points.insert(out.face_points.end(), m.face_points.begin() + m.face_start[at(f)],
                               m.face_points.begin() + m.face_start[at(f) + 1]);
    if (turned) std::reverse(first, out.face_points.end());
    out.face_start.push_back(static_cast<int>(out.face_points.size()));
    out.face_area.push_back(turned ? -m.face_area[at(f)] : m.face_area[at(f)]);
    out.face_centre.push_back(m.face_centre[at(f)]);
    out.cell_below.push_back(number[at(turned ? m.cell_above[at(f)] : m.cell_below[at(f)])]);
  };
  std::vector<std::vector<int>> wall(m.boundaries.size());
  for (int f = 0; f < m.interior_faces(); ++f) {
    const int below = filled_[at(m.cell_below[at(f)])], above = filled_[at(m.cell_above[at(f)])];
    if (below >= 0 && above >= 0) continue;
    if (below >= 0 || above >= 0) {
      wall[at(std::max(below, above))].push_back(f);
      continue;
    }
    add(f, false);
    out.cell_above.push_back(number[at(m.cell_above[at(f)])]);
  }
  for (int f = m.interior_faces(); f < m.faces(); ++f)
    if (filled_[at(m.cell_below[at(f)])] < 0)
      wall[at(boundary_of_[at(f - m.interior_faces())])].push_back(f);
  for (std::size_t p = 0; p < wall.size(); ++p) {
    out.boundaries[p].first = out.faces();
    for (const int f : wall[p]) add(f, filled_[at(m.cell_below[at(f)])] >= 0);
    out.boundaries[p].count = out.faces() - out.boundaries[p].first;
  }
  return out;
}

}  // namespace

namespace {

/// Cells with a volume or a face pyramid that is not positive.
std::vector<int> unsound_cells(const VolumeMesh& m) {
  std::vector<char> bad(at(m.cells), 0);
  for (int c = 0; c < m.cells; ++c) bad[at(c)] = !(m.cell_volume[at(c)] > 0);
  for (int f = 0; f < m.faces(); ++f) {
    const auto pyramid = [&](int c) {
      return dot(m.face_area[at(f)], m.face_centre[at(f)] - m.cell_centre[at(c)]);
    };
    const int a = m.cell_below[at(f)];
    if (!(pyramid(a) > 0)) bad[at(a)] = 1;
    if (f >= m.interior_faces()) continue;
    const int b = m.cell_above[at(f)];
    if (!(pyramid(b) < 0)) bad[at(b)] = 1;
  }
  std::vector<int> cells;
  for (int c = 0; c < m.cells; ++c)
    if (bad[at(c)]) cells.push_back(c);
  return cells;
}

}  // namespace

FilledDents fill_unsound_cells(VolumeMesh& m) {
  const std::vector<int> unsound = unsound_cells(m);
  if (unsound.empty()) return {};
  Dents dents(m);
  for (const int c : unsound) dents.take(c);
  const FilledDents report = dents.report();
  if (report.cells > 0) m = dents.mesh();
  return report;
}

FilledDents fill_dents(VolumeMesh& m) {
  std::vector<char> bad(at(m.faces()));
  parallel_for(
      bad.size(), [&](std::size_t f) { bad[f] = face_badness(m, static_cast<int>(f)) > 1; }, 4096);
  Dents dents(m);
  for (int f = 0; f < m.faces(); ++f) {
    if (!bad[at(f)]) continue;
    dents.look_at(m.cell_below[at(f)]);
    if (f < m.interior_faces()) dents.look_at(m.cell_above[at(f)]);
  }
  const FilledDents report = dents.report();
  if (report.cells > 0) m = dents.mesh();
  return report;
}

}  // namespace dunefield
