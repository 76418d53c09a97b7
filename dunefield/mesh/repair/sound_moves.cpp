#include <dunefield/mesh/repair/sound_moves.hpp>

#include <algorithm>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
double soundness_of(const PolygonMeasure* m, int n, double* volume_out) {
  Vec3 reference;
  for (int i = 0; i < n; ++i) reference += m[i].centre / n;
  double volume = 0;
  Vec3 centre;
  for (int i = 0; i < n; ++i) {
    const double v = dot(m[i].area, m[i].centre - reference) / 3.0;
    volume += v;
    centre += v * (0.75 * m[i].centre + 0.25 * reference);
  }
  if (volume_out) *volume_out = volume;
  if (volume <= 0) return -1;
  centre = centre / volume;
  double lowest = 1e300;
  for (int i = 0; i < n; ++i)
    lowest = std::min(lowest, dot(m[i].area, m[i].centre - centre) / (norm(m[i].area) + 1e-300));
  return lowest / std::cbrt(volume);
}

double cell_soundness(const VolumeMesh& mesh, const CellFaces& rows, int cell, double* volume_out) {
  constexpr int most = 64;
  PolygonMeasure m[most];
  const int first = rows.start[at(cell)], n = std::min(rows.start[at(cell) + 1] - first, most);
  for (int i = 0; i < n; ++i) {
    const int f = rows.face[at(first + i)];
    m[i] = measure_polygon(mesh.points, &mesh.face_points[at(mesh.face_start[at(f)])],
                           mesh.face_start[at(f) + 1] - mesh.face_start[at(f)]);
    if (mesh.cell_below[at(f)] != cell) m[i].area = -m[i].area;
  }
  return soundness_of(m, n, volume_out);
}

std::vector<std::vector<int>> cells_at_points(const VolumeMesh& mesh,
                                              const std::vector<int>& points) {
  std::vector<int> slot(mesh.points.size(), -1);
  for (std::size_t k = 0; k < points.size(); ++k) slot[at(points[k])] = static_cast<int>(k);
  std::vector<std::vector<int>> cells(points.size());
  for (int f = 0; f < mesh.faces(); ++f)
    for (int k = mesh.face_start[at(f)]; k < mesh.face_start[at(f) + 1]; ++k)
      if (const int s = slot[at(mesh.face_points[at(k)])]; s >= 0) {
        auto& list = cells[at(s)];
        const auto add = [&](int c) {
          if (std::find(list.begin(), list.end(), c) == list.end()) list.push_back(c);
        };
        add(mesh.cell_below[at(f)]);
        if (f < mesh.interior_faces()) add(mesh.cell_above[at(f)]);
      }
  return cells;
}

std::vector<char> move_together(VolumeMesh& mesh, const CellFaces& rows,
                                const std::vector<int>& moving, const std::vector<Vec3>& target,
                                const std::vector<std::vector<int>>& cells_around) {
  std::vector<char> concerned(at(mesh.cells), 0), suffers(at(mesh.cells), 0),
      moved(moving.size(), 1);
  for (const auto& cells : cells_around)
    for (const int c : cells) concerned[at(c)] = 1;
  std::vector<double> limit(at(mesh.cells), 0);
  parallel_for(
      limit.size(),
      [&](std::size_t c) {
        if (concerned[c])
          limit[c] = std::min(cell_soundness(mesh, rows, static_cast<int>(c)), soundness_floor);
      },
      512);
  std::vector<Vec3> from(moving.size());
  for (std::size_t k = 0; k < moving.size(); ++k)
    from[k] = mesh.points[at(moving[k])], mesh.points[at(moving[k])] = target[k];
  for (bool any = true; any;) {
    parallel_for(
        limit.size(),
        [&](std::size_t c) {
          if (concerned[c]) suffers[c] = cell_soundness(mesh, rows, static_cast<int>(c)) < limit[c];
        },
        512);
    std::fill(concerned.begin(), concerned.end(), char{0});
    any = false;
    for (std::size_t k = 0; k < moving.size(); ++k) {
      if (!moved[k] || std::none_of(cells_around[k].begin(), cells_around[k].end(),
                                    [&](int c) { return suffers[at(c)]; }))
        continue;
      mesh.points[at(moving[k])] = from[k], moved[k] = 0, any = true;
      for (const int c : cells_around[k]) concerned[at(c)] = 1;
    }
  }
  return moved;
}

}  // namespace dunefield
