#include <dunefield/mesh/volume_mesh.hpp>

#include <algorithm>
#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

PolygonMeasure measure_polygon(const std::vector<Vec3>& points, const int* corner, int count) {
  PolygonMeasure m;
  for (int i = 0; i < count; ++i) m.mean += points[at(corner[i])];
  m.mean *= 1.0 / count;
  Vec3 moment;
  double weight = 0, size = 0;
  Vec3 previous = points[at(corner[count - 1])] - m.mean;
  Vec3 spokes[2] = {previous, {}};
  for (int i = 0; i < count; ++i) {
    spokes[1] = points[at(corner[i])] - m.mean;
    m.area += 0.5 * cross(spokes[0], spokes[1]);
    spokes[0] = spokes[1];
  }
  const Vec3 n = unit(m.area);
  for (int i = 0; i < count; ++i) {
    const Vec3 r = points[at(corner[i])] - m.mean;
    const double a = 0.5 * dot(cross(previous, r), n);
    moment += (a / 3.0) * (previous + r);
    weight += a, size += std::abs(a);
    previous = r;
  }
  // Of a polygon folded onto itself the centre would be anywhere.
  m.centre = m.mean + (weight > 0.5 * size ? moment / weight : Vec3{});
  return m;
}

CellMeasure measure_cell(const VolumeMesh& m, const CellFaces& rows, int cell) {
  const auto c = static_cast<std::size_t>(cell);
  Vec3 reference;
  for (int r = rows.start[c]; r < rows.start[c + 1]; ++r)
    reference += m.face_centre[at(rows.face[at(r)])];
  reference *= 1.0 / (rows.start[c + 1] - rows.start[c]);
  CellMeasure sum;
  for (int r = rows.start[c]; r < rows.start[c + 1]; ++r) {
    const auto f = static_cast<std::size_t>(rows.face[at(r)]);
    const double sign = m.cell_below[f] == cell ? 1.0 : -1.0;
    const int* corner = &m.face_points[at(m.face_start[f])];
    const int count = m.face_start[f + 1] - m.face_start[f];
    Vec3 mean;
    for (int k = 0; k < count; ++k) mean += m.points[at(corner[k])];
    mean *= 1.0 / count;
    Vec3 a = m.points[at(corner[count - 1])];
    for (int k = 0; k < count; ++k) {
      const Vec3 b = m.points[at(corner[k])];
      const Vec3 s = 0.5 * cross(a - mean, b - mean), c3 = (a + b + mean) / 3.0;
      const double v = sign * dot(s, c3 - reference) / 3.0;
      sum.volume += v;
      sum.centre += v * (0.75 * c3 + 0.25 * reference);
      a = b;
    }
  }
  sum.centre = sum.volume > 0 ? sum.centre / sum.volume : reference;
  return sum;
}

void VolumeMesh::derive() {
  const auto nf = static_cast<std::size_t>(faces());
  face_area.resize(nf), face_centre.resize(nf);
  parallel_for(
      nf,
      [&](std::size_t i) {
        const PolygonMeasure m = measure_polygon(points, &face_points[at(face_start[i])],
                                                 face_start[i + 1] - face_start[i]);
        face_area[i] = m.area, face_centre[i] = m.centre;
      },
      4096);
  const CellFaces rows = faces_of_cells(*this);
  cell_volume.resize(static_cast<std::size_t>(cells)),
      cell_centre.resize(static_cast<std::size_t>(cells));
  parallel_for(
      cell_volume.size(),
      [&](std::size_t c) {
        const CellMeasure m = measure_cell(*this, rows, static_cast<int>(c));
        cell_volume[c] = m.volume, cell_centre[c] = m.centre;
      },
      1024);
}

Mat3 VolumeMesh::face_warp(int face) const {
  const auto i = static_cast<std::size_t>(face);
  const int* corner = &face_points[at(face_start[i])];
  const int count = face_start[i + 1] - face_start[i];
  const Vec3 mean = measure_polygon(points, corner, count).mean;
  Mat3 warp;
  for (int k = 0; k < count; ++k) {
    const Vec3 a = points[at(corner[k])], b = points[at(corner[(k + 1) % count])];
    const Vec3 s = 0.5 * cross(a - mean, b - mean), r = (a + b + mean) / 3.0 - face_centre[i];
    for (int row = 0; row < 3; ++row) warp.row[row] += s[row] * r;
  }
  return warp;
}

CellFaces faces_of_cells(const VolumeMesh& mesh) {
  CellFaces rows;
  rows.start.assign(static_cast<std::size_t>(mesh.cells) + 1, 0);
  for (const int c : mesh.cell_below) ++rows.start[at(c) + 1];
  for (const int c : mesh.cell_above) ++rows.start[at(c) + 1];
  std::partial_sum(rows.start.begin(), rows.start.end(), rows.start.begin());
  rows.face.resize(static_cast<std::size_t>(rows.start.back()));
  std::vector<int> fill(rows.start.begin(), rows.start.end() - 1);
  for (int f = 0; f < mesh.faces(); ++f) {
    rows.face[at(fill[at(mesh.cell_below[at(f)])]++)] = f;
    if (f < mesh.interior_faces()) rows.face[at(fill[at(mesh.cell_above[at(f)])]++)] = f;
  }
  return rows;
}

VolumeMesh structured_mesh_of_points(int nx, int ny, int nz, std::vector<Vec3> points, bool ring) {
  VolumeMesh mesh;
  mesh.points = std::move(points);
  mesh.cells = nx * ny * nz;
  const auto point = [&](int i, int j, int k) {
    return (k * (ny + 1) + j) * (nx + 1) + (ring ? i % nx : i);
  };
  const auto cell = [&](int i, int j, int k) {
    return (k * ny + j) * nx + (ring ? (i + nx) % nx : i);
  };
  mesh.face_start = {0};
  const auto add_face = [&](int axis, int i, int j, int k, bool flip) {
    // The quad of the lower side of cell (i, j, k) along `axis`, its area vector pointing up the
    // axis.
    int q[4];
    if (axis == 0)
      q[0] = point(i, j, k), q[1] = point(i, j + 1, k), q[2] = point(i, j + 1, k + 1),
      q[3] = point(i, j, k + 1);
    if (axis == 1)
      q[0] = point(i, j, k), q[1] = point(i, j, k + 1), q[2] = point(i + 1, j, k + 1),
      q[3] = point(i + 1, j, k);
    if (axis == 2)
      q[0] = point(i, j, k), q[1] = point(i + 1, j, k), q[2] = point(i + 1, j + 1, k),
      q[3] = point(i, j + 1, k);
    if (flip) std::swap(q[1], q[3]);
    mesh.face_points.insert(mesh.face_points.end(), q, q + 4);
    mesh.face_start.push_back(static_cast<int>(mesh.face_points.size()));
  };
  for (int k = 0; k < nz; ++k)
    for (int j = 0; j < ny; ++j)
      for (int i = 0; i < nx; ++i)
        for (int axis = 0; axis < 3; ++axis) {
          const int ni = i + (axis == 0), nj = j + (axis == 1), nk = k + (axis == 2);
          if ((ni >= nx && !ring) || nj >= ny || nk >= nz) continue;
          add_face(axis, ni, nj, nk, false);
          mesh.cell_below.push_back(cell(i, j, k));
          mesh.cell_above.push_back(cell(ni, nj, nk));
        }
  const char* names[6] = {"x-", "x+", "y-", "y+", "z-", "z+"};
  for (int side = ring ? 2 : 0; side < 6; ++side) {
    Boundary boundary{names[side], BoundaryKind::part, mesh.faces(), 0};
    const int axis = side / 2;
    const bool upper = side % 2;
    const int n[3] = {nx, ny, nz};
    for (int k = 0; k < (axis == 2 ? 1 : nz); ++k)
      for (int j = 0; j < (axis == 1 ? 1 : ny); ++j)
        for (int i = 0; i < (axis == 0 ? 1 : nx); ++i) {
          int at[3] = {i, j, k};
          if (upper) at[axis] = n[axis];
          add_face(axis, at[0], at[1], at[2], !upper);
          if (upper) --at[axis];
          mesh.cell_below.push_back(cell(at[0], at[1], at[2]));
        }
    boundary.count = mesh.faces() - boundary.first;
    mesh.boundaries.push_back(boundary);
  }
  mesh.derive();
  return mesh;
}

void VolumeMesh::reorder_boundary(const std::vector<int>& order,
                                  std::vector<Boundary> new_boundaries) {
  const auto inside = static_cast<std::size_t>(interior_faces());
  const VolumeMesh old = *this;
  face_start.resize(inside + 1);
  face_points.resize(static_cast<std::size_t>(face_start.back()));
  for (std::size_t i = 0; i < order.size(); ++i) {
    const auto from = static_cast<std::size_t>(order[i]), to = inside + i;
    face_points.insert(face_points.end(), old.face_points.begin() + old.face_start[from],
                       old.face_points.begin() + old.face_start[from + 1]);
    face_start.push_back(static_cast<int>(face_points.size()));
    cell_below[to] = old.cell_below[from];
    if (!face_area.empty())
      face_area[to] = old.face_area[from], face_centre[to] = old.face_centre[from];
  }
  boundaries = std::move(new_boundaries);
}

}  // namespace dunefield
