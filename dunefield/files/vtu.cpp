#include <dunefield/files/vtu.hpp>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <numeric>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/files/loose_mesh.hpp>

namespace dunefield {
namespace {

constexpr int polyhedron = 42;

/// The cells as the format asks for them: each with its points and, with the faces turned outward,
/// its own list of faces.
template <class Int>
struct CellLists {
  std::vector<Int> connectivity, offsets, faces, face_offsets;
};

template <class Int>
CellLists<Int> cell_lists(const VolumeMesh& m, const CellFaces& rows) {
  CellLists<Int> l;
  std::vector<int> corners;
  for (int c = 0; c < m.cells; ++c) {
    corners.clear();
    l.faces.push_back(rows.start[at(c) + 1] - rows.start[at(c)]);
    for (int r = rows.start[at(c)]; r < rows.start[at(c) + 1]; ++r) {
      const int f = rows.face[at(r)], first = m.face_start[at(f)], last = m.face_start[at(f) + 1];
      l.faces.push_back(last - first);
      for (int k = first; k < last; ++k) {
        const int p = m.cell_below[at(f)] == c ? m.face_points[at(k)]
                                               : m.face_points[at(first + last - 1 - k)];
        l.faces.push_back(p);
        corners.push_back(p);
      }
    }
    std::sort(corners.begin(), corners.end());
    corners.erase(std::unique(corners.begin(), corners.end()), corners.end());
    l.connectivity.insert(l.connectivity.end(), corners.begin(), corners.end());
    l.offsets.push_back(static_cast<Int>(l.connectivity.size()));
    l.face_offsets.push_back(static_cast<Int>(l.faces.size()));
  }
  return l;
}

template <class Int>
std::string add_cells(VtkWriter& data, const VolumeMesh& m, const CellFaces& rows) {
  const CellLists<Int> l = cell_lists<Int>(m, rows);
  return data.add("connectivity", 1, l.connectivity) + data.add("offsets", 1, l.offsets) +
         data.add("types", 1, std::vector<std::uint8_t>(at(m.cells), polyhedron)) +
         data.add("faces", 1, l.faces) + data.add("faceoffsets", 1, l.face_offsets);
}

std::string add_boundaries(VtkWriter& data, const VolumeMesh& m, const CellFaces& rows) {
  std::string xml;
  for (const Boundary& p : m.boundaries) {
    std::vector<std::int64_t> places;
    for (int f = p.first; f < p.first + p.count; ++f) {
      const int cell = m.cell_below[at(f)];
      const auto row = rows.face.begin() + rows.start[at(cell)];
      places.push_back(cell);
      places.push_back(std::find(row, rows.face.begin() + rows.start[at(cell) + 1], f) - row);
    }
    if (p.count > 0) xml += data.add(fmt::format("{}: {}", word_of(p.kind), p.name), 2, places);
  }
  return xml;
}

/// The faces of the cells that the format has numbers for, in the order of its points (right-hand
/// rule, outward).
const std::vector<std::vector<int>>* faces_of_type(std::int64_t type) {
  static const std::vector<std::vector<int>>
      tetrahedron = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}},
      voxel = {{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}},
      hexahedron = {{0, 3, 2, 1}, {4, 5, 6, 7}, {0, 1, 5, 4},
                    {1, 2, 6, 5}, {2, 3, 7, 6}, {3, 0, 4, 7}},
      wedge = {{0, 1, 2}, {3, 5, 4}, {0, 3, 4, 1}, {1, 4, 5, 2}, {2, 5, 3, 0}},
      pyramid = {{0, 3, 2, 1}, {0, 1, 4}, {1, 2, 4}, {2, 3, 4}, {3, 0, 4}};
  switch (type) {
    case 10: return &tetrahedron;
    case 11: return &voxel;
    case 12: return &hexahedron;
    case 13: return &wedge;
    case 14: return &pyramid;
    default: return nullptr;
  }
}

/// Every cell's own faces, before those of neighbours are found to be the same.
struct OwnFaces {
  std::vector<int> cell_start = {0};  ///< into faces
  std::vector<int> face_start = {0}, points;
  int faces() const { return static_cast<int>(face_start.size()) - 1; }
};

class VtuReader {
 public:
  explicit VtuReader(const std::filesystem::path& file)
      : file_(file, "UnstructuredGrid"), name_(file.string()) {}

  VolumeMesh mesh() {
    read_points();
    read_cells();
    turn_outward();
    read_boundaries();
    unite();
    if (loose_.boundaries.empty()) guess_boundaries();
    return put_in_order(std::move(loose_), name_);
  }

 private:
  void read_points() {
    const std::vector<VtkArray> arrays = file_.arrays("Points");
    if (arrays.empty() || arrays[0].components != 3 ||
        arrays[0].reals.size() != 3 * at(file_.number("NumberOfPoints")))
      file_.refuse("its points are not whole", "write the mesh anew");
    const std::vector<double>& x = arrays[0].reals;
    if (!std::all_of(x.begin(), x.end(), [](double v) { return std::isfinite(v); }))
      file_.refuse("a point is at no place", "write the mesh anew");
    for (std::size_t i = 0; i + 2 < x.size(); i += 3)
      loose_.points.push_back({x[i], x[i + 1], x[i + 2]});
  }

  void add_face(const std::int64_t* corners, std::int64_t count) {
    for (std::int64_t k = 0; k < count; ++k) {
      if (corners[k] < 0 || at(corners[k]) >= loose_.points.size())
        file_.refuse(fmt::format("a cell has point {}, which does not exist", corners[k]),
                     "write the mesh anew");
      own_.points.push_back(static_cast<int>(corners[k]));
    }
    if (count < 3) file_.refuse("a face has less than three points", "write the mesh anew");
    own_.face_start.push_back(static_cast<int>(own_.points.size()));
  }

  /// The arrays of the file's cells.
  struct Cells {
    std::vector<std::int64_t> connectivity, offsets, types, faces, face_offsets;
  };

  void read_cells() {
    Cells cells;
    for (VtkArray& a : file_.arrays("Cells"))
      for (const auto& [name, into] : {std::pair{"connectivity", &cells.connectivity},
                                       {"offsets", &cells.offsets},
                                       {"types", &cells.types},
                                       {"faces", &cells.faces},
                                       {"faceoffsets", &cells.face_offsets}})
        if (a.name == name) *into = std::move(a.integers);
    const std::int64_t told = file_.number("NumberOfCells");
    const auto count = at(std::max<std::int64_t>(0, told));
    if (told < 1 || told > std::numeric_limits<int>::max() || cells.offsets.size() != count ||
        cells.types.size() != count)
      file_.refuse("its cells are not whole", "write the mesh anew");
    loose_.cells = static_cast<int>(count);
    std::int64_t polyhedra_end = 0;  // in the list of their faces
    for (std::size_t c = 0; c < count; ++c) {
      if (cells.types[c] == polyhedron)
        polyhedra_end = add_polyhedron(cells, c, polyhedra_end);
      else
        add_of_type(cells, c);
      own_.cell_start.push_back(own_.faces());
    }
  }

  /// @return where its faces end in the list
  std::int64_t add_polyhedron(const Cells& cells, std::size_t c, std::int64_t k) {
    const std::int64_t end = c < cells.face_offsets.size() ? cells.face_offsets[c] : -1;
    if (end <= k || at(end) > cells.faces.size())
      file_.refuse(fmt::format("polyhedron {} has no faces", c + 1),
                   "write the mesh with the arrays 'faces' and 'faceoffsets' (file version 1.0)");
    for (std::int64_t n = cells.faces[at(k++)]; n > 0; --n) {
      if (k >= end || cells.faces[at(k)] < 0 || cells.faces[at(k)] > end - k - 1)
        file_.refuse(fmt::format("the faces of polyhedron {} contradict themselves", c + 1),
                     "write the mesh anew");
      add_face(&cells.faces[at(k)] + 1, cells.faces[at(k)]);
      k += 1 + cells.faces[at(k)];
    }
    return end;
  }

  void add_of_type(const Cells& cells, std::size_t c) {
    const auto* corners = faces_of_type(cells.types[c]);
    if (!corners)
      file_.refuse(fmt::format("cell {} is of type {}", c + 1, cells.types[c]),
                   "use polyhedra, tetrahedra, hexahedra, wedges and pyramids");
    int last = 0;
    for (const auto& face : *corners)
      last = std::max(last, *std::max_element(face.begin(), face.end()));
    const std::int64_t first = c > 0 ? cells.offsets[c - 1] : 0;
    if (first < 0 || cells.offsets[c] != first + last + 1 ||
        at(cells.offsets[c]) > cells.connectivity.size())
      file_.refuse(fmt::format("cell {} has the wrong number of points", c + 1),
                   "write the mesh anew");
    for (const auto& face : *corners) {
      std::int64_t points[4];
      for (std::size_t i = 0; i < face.size(); ++i)
        points[i] = cells.connectivity[at(first + face[i])];
      add_face(points, static_cast<std::int64_t>(face.size()));
    }
  }

  PolygonMeasure measure(int face) const {
    return measure_polygon(loose_.points, &own_.points[at(own_.face_start[at(face)])],
                           own_.face_start[at(face) + 1] - own_.face_start[at(face)]);
  }
  void turn(int face) {
    std::reverse(own_.points.begin() + own_.face_start[at(face)],
                 own_.points.begin() + own_.face_start[at(face) + 1]);
  }

  /// Not every program turns the faces of its cells outward. Those that close a cell are taken as
  /// they are, or all the other way round; others are turned away from the cell's middle.
  void turn_outward() {
    for (int c = 0; c < loose_.cells; ++c) {
      const int first = own_.cell_start[at(c)], last = own_.cell_start[at(c) + 1];
      Vec3 sum, middle;
      double size = 0, volume = 0;
      for (int f = first; f < last; ++f) {
        const PolygonMeasure p = measure(f);
        sum += p.area, size += norm(p.area), middle += p.centre / (last - first);
      }
      for (int f = first; f < last; ++f) {
        const PolygonMeasure p = measure(f);
        volume += dot(p.area, p.centre - middle);
      }
      const bool closed = norm(sum) < 1e-6 * size;
      if (closed && volume > 0) continue;
      for (int f = first; f < last; ++f) {
        const PolygonMeasure p = measure(f);
        if (closed || dot(p.area, p.centre - middle) < 0) turn(f);
      }
    }
  }

  std::vector<int> sorted_points(int face) const {
    std::vector<int> p(own_.points.begin() + own_.face_start[at(face)],
                       own_.points.begin() + own_.face_start[at(face) + 1]);
    std::sort(p.begin(), p.end());
    return p;
  }

  /// Faces of two cells with the same points are one, unless they are the two sides of a wall of no
  /// thickness. Polygons come in the order of the first cell that has them.
  void unite() {
    const int faces = own_.faces();
    std::vector<int> cell(at(faces)), order(at(faces)), least(at(faces));
    for (int c = 0; c < loose_.cells; ++c)
      std::fill(cell.begin() + own_.cell_start[at(c)], cell.begin() + own_.cell_start[at(c) + 1],
                c);
    std::iota(order.begin(), order.end(), 0);
    for (int f = 0; f < faces; ++f)
      least[at(f)] = *std::min_element(own_.points.begin() + own_.face_start[at(f)],
                                       own_.points.begin() + own_.face_start[at(f) + 1]);
    std::stable_sort(order.begin(), order.end(),
                     [&](int a, int b) { return least[at(a)] < least[at(b)]; });
    std::vector<int> twin(at(faces), -1), first(at(faces), 1);
    for (std::size_t from = 0; from < order.size();) {
      std::size_t to = from;
      std::vector<std::pair<std::vector<int>, int>> alike;
      for (; to < order.size() && least[at(order[to])] == least[at(order[from])]; ++to)
        alike.emplace_back(sorted_points(order[to]), order[to]);
      std::sort(alike.begin(), alike.end());
      for (std::size_t i = 0; i < alike.size();) {
        std::size_t j = i + 1;
        while (j < alike.size() && alike[j].first == alike[i].first) ++j;
        if (j - i > 2)
          file_.refuse(
              fmt::format("cells {}, {} and {} share a face", cell[at(alike[i].second)] + 1,
                          cell[at(alike[i + 1].second)] + 1, cell[at(alike[i + 2].second)] + 1),
              "a face parts two cells");
        if (j - i > 1 && !two_walls(alike[i].second, alike[i + 1].second))
          twin[at(alike[i].second)] = alike[i + 1].second, first[at(alike[i + 1].second)] = 0;
        i = j;
      }
      from = to;
    }
    for (int f = 0; f < faces; ++f) {
      if (on_boundary_[at(f)] >= 0)
        loose_.boundaries[at(on_boundary_[at(f)])].polygons.push_back(loose_.polygons());
      if (!first[at(f)]) continue;
      add_polygon(f, cell[at(f)], twin[at(f)] >= 0 ? cell[at(twin[at(f)])] : -1);
    }
  }

  /// @param a, b faces of two cells with the same points
  bool two_walls(int a, int b) const {
    const int of_a = on_boundary_[at(a)], of_b = on_boundary_[at(b)];
    if ((of_a < 0) != (of_b < 0))
      file_.refuse(fmt::format("boundary '{}' has a face with two cells beside it",
                               loose_.boundaries[at(std::max(of_a, of_b))].name),
                   "a boundary is the outside of one cell");
    return of_a >= 0;
  }

  void add_polygon(int face, int below, int above) {
    loose_.face_points.insert(loose_.face_points.end(),
                              own_.points.begin() + own_.face_start[at(face)],
                              own_.points.begin() + own_.face_start[at(face) + 1]);
    loose_.face_start.push_back(static_cast<int>(loose_.face_points.size()));
    loose_.sides.push_back({below, above});
  }

  /// Our own boundaries, if the file has them.
  void read_boundaries() {
    on_boundary_.assign(at(own_.faces()), -1);
    for (const VtkArray& a : file_.arrays("FieldData")) {
      const std::size_t colon = a.name.find(": ");
      const int kind = colon == std::string::npos ? -1 : kind_of(a.name.substr(0, colon));
      if (kind < 0 || a.components != 2) continue;
      const std::string name = a.name.substr(colon + 2);
      for (std::size_t i = 0; i + 1 < a.integers.size(); i += 2) {
        const std::int64_t c = a.integers[i], k = a.integers[i + 1];
        if (c < 0 || c >= loose_.cells || k < 0 ||
            k >= own_.cell_start[at(c) + 1] - own_.cell_start[at(c)])
          file_.refuse(fmt::format("boundary '{}' names face {} of cell {}, which does not exist",
                                   name, k, c),
                       "write the mesh anew");
        int& boundary = on_boundary_[at(own_.cell_start[at(c)] + k)];
        if (boundary >= 0)
          file_.refuse(fmt::format("face {} of cell {} is named twice by boundaries", k, c),
                       "write the mesh anew");
        boundary = static_cast<int>(loose_.boundaries.size());
      }
      loose_.boundaries.push_back({name, static_cast<BoundaryKind>(kind), {}});
    }
  }

  void guess_boundaries() {
    Box all;
    for (const Vec3& p : loose_.points) all.include(p);
    const double flat = 1e-6 * norm(all.size());
    const auto y_least =
        std::abs(all.lo.y) < flat ? BoundaryKind::centre_plane : BoundaryKind::side;
    loose_.boundaries = {
        {"inflow", BoundaryKind::inflow, {}},
        {"outflow", BoundaryKind::outflow, {}},
        {y_least == BoundaryKind::side ? "left side" : "centre plane", y_least, {}},
        {"right side", BoundaryKind::side, {}},
        {"road", BoundaryKind::road, {}},
        {"roof", BoundaryKind::roof, {}},
        {"vehicle", BoundaryKind::part, {}}};
    for (int p = 0; p < loose_.polygons(); ++p) {
      if (loose_.sides[at(p)].above >= 0) continue;
      const Box box = loose_.box_of({p});
      std::size_t which = 6;
      for (int axis = 0; axis < 3; ++axis) {
        if (box.hi[axis] < all.lo[axis] + flat) which = at(2 * axis);
        if (box.lo[axis] > all.hi[axis] - flat) which = at(2 * axis + 1);
      }
      loose_.boundaries[which].polygons.push_back(p);
    }
    std::erase_if(loose_.boundaries, [](const LooseBoundary& p) { return p.polygons.empty(); });
  }

  VtkReader file_;
  std::string name_;
  LooseMesh loose_;
  OwnFaces own_;
  std::vector<int> on_boundary_;  ///< per own face: the boundary that names it, or -1
};

}  // namespace

void write_vtu(const std::filesystem::path& file, const VolumeMesh& m,
               const std::vector<NamedField>& cell_fields) {
  const CellFaces rows = faces_of_cells(m);
  VtkWriter data(file);
  std::string xml =
      "<UnstructuredGrid>\n<FieldData>\n" + add_boundaries(data, m, rows) + "</FieldData>\n";
  xml += fmt::format("<Piece NumberOfPoints=\"{}\" NumberOfCells=\"{}\">\n<Points>\n",
                     m.points.size(), m.cells);
  xml += data.add("points", 3, exact_coordinates(m.points)) + "</Points>\n<Cells>\n";
  // Every face stands twice in the lists, each cell with a count of its own.
  const bool short_numbers = 2 * (m.face_points.size() + m.cell_below.size()) + at(m.cells) <
                             at(std::numeric_limits<std::int32_t>::max());
  xml += (short_numbers ? add_cells<std::int32_t>(data, m, rows)
                        : add_cells<std::int64_t>(data, m, rows)) +
         "</Cells>\n<CellData>\n";
  for (const NamedField& f : cell_fields) xml += data.add(f);
  xml += "</CellData>\n</Piece>\n</UnstructuredGrid>\n";
  data.finish("UnstructuredGrid", xml);
}

VolumeMesh read_vtu(const std::filesystem::path& file) { return VtuReader(file).mesh(); }

}  // namespace dunefield
