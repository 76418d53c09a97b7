#include <dunefield/files/cgns.hpp>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <set>
#include <utility>

#include <cgnslib.h>
#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/files/loose_mesh.hpp>

namespace dunefield {
namespace {

constexpr std::size_t longest_name = 32;  // of a node
constexpr cgsize_t most_number = std::numeric_limits<cgsize_t>::max();
constexpr char name_key[] = "BoundaryName", kind_key[] = "BoundaryKind";

CGNS_ENUMT(BCType_t) condition_of(BoundaryKind kind) {
  switch (kind) {
    case BoundaryKind::inflow: return CGNS_ENUMV(BCInflow);
    case BoundaryKind::outflow: return CGNS_ENUMV(BCOutflow);
    case BoundaryKind::side:
    case BoundaryKind::roof: return CGNS_ENUMV(BCWallInviscid);
    case BoundaryKind::centre_plane: return CGNS_ENUMV(BCSymmetryPlane);
    default: return CGNS_ENUMV(BCWallViscous);
  }
}

/// An open file; its calls throw with the library's own words.
class CgnsFile {
 public:
  CgnsFile(const std::filesystem::path& file, bool write) : name_(file.string()), write_(write) {
    std::error_code status;
    if (!write) bytes_ = std::filesystem::file_size(file, status);
    call(cg_open(name_.c_str(), write ? CG_MODE_WRITE : CG_MODE_READ, &number_));
  }
  ~CgnsFile() {
    if (number_ >= 0) cg_close(number_);
  }
  CgnsFile(const CgnsFile&) = delete;
  CgnsFile& operator=(const CgnsFile&) = delete;

  void call(int status) const {
    if (status == CG_OK) return;
    if (write_)
      throw OutputError(fmt::format("could not be written ({})", cg_get_error()), name_,
                        "check the folder, its permissions and the free space");
    throw InputError(fmt::format("cannot be read as CGNS ({})", cg_get_error()), name_,
                     "check that it is a whole CGNS file");
  }
  [[noreturn]] void refuse(const std::string& what, const std::string& advice) const {
    throw InputError(what, name_, advice);
  }
  void close() {
    const int n = number_;
    number_ = -1;
    call(cg_close(n));
  }
  int number() const { return number_; }
  /// @throw InputError for more values than the file can hold, packed as well as may be
  void check_count(cgsize_t count) const {
    constexpr double smallest = 0.01;  // bytes of a packed value
    if (count < 0 || static_cast<double>(count) * smallest > static_cast<double>(bytes_))
      refuse(fmt::format("it says that it has {} values, more than the file can hold", count),
             "write the mesh anew");
  }
  struct Label {
    const char* kind;
    int number;
  };
  /// @throw InputError if a node of the first base stands in another file
  void refuse_link(Label of_base, Label of_that) const {
    int length = 0;
    if (cg_goto(number_, 1, of_base.kind, of_base.number, of_that.kind, of_that.number, "end") ==
            CG_OK &&
        cg_is_link(&length) == CG_OK && length > 0)
      refuse("a part of it is a link to another file", "write the mesh as one file");
  }

 private:
  std::string name_;
  std::uintmax_t bytes_ = 0;
  bool write_;
  int number_ = -1;
};

/// A name that may stand in the file: short, without the separator of paths, not taken yet.
std::string node_name(const std::string& name, std::set<std::string>& taken) {
  std::string clean = name.empty() ? "boundary" : name;
  for (char& c : clean)
    if (c == '/' || static_cast<unsigned char>(c) < 32) c = '_';
  std::string out = clean.substr(0, longest_name);
  for (int n = 2; !taken.insert(out).second; ++n) {
    const std::string tail = fmt::format(" {}", n);
    out = clean.substr(0, longest_name - tail.size()) + tail;
  }
  return out;
}

void write_coordinates(const CgnsFile& f, int base, int zone, const std::vector<Vec3>& points) {
  std::vector<double> values(points.size());
  for (int axis = 0; axis < 3; ++axis) {
    for (std::size_t i = 0; i < points.size(); ++i) values[i] = points[i][axis];
    int coordinate = 0;
    constexpr const char* names[] = {"CoordinateX", "CoordinateY", "CoordinateZ"};
    f.call(cg_coord_write(f.number(), base, zone, CGNS_ENUMV(RealDouble), names[axis],
                          values.data(), &coordinate));
  }
}

void write_elements(const CgnsFile& f, int base, int zone, const VolumeMesh& m) {
  std::vector<cgsize_t> elements(m.face_points.size()),
      start(m.face_start.begin(), m.face_start.end());
  for (std::size_t k = 0; k < elements.size(); ++k) elements[k] = m.face_points[k] + 1;
  int section = 0;
  f.call(cg_poly_section_write(f.number(), base, zone, "Faces", CGNS_ENUMV(NGON_n), 1, m.faces(), 0,
                               elements.data(), start.data(), &section));
  const CellFaces rows = faces_of_cells(m);
  elements.resize(rows.face.size());
  start.assign(rows.start.begin(), rows.start.end());
  for (int c = 0; c < m.cells; ++c)
    for (int r = rows.start[at(c)]; r < rows.start[at(c) + 1]; ++r) {
      const int face = rows.face[at(r)];
      elements[at(r)] = m.cell_below[at(face)] == c ? face + 1 : -(face + 1);
    }
  f.call(cg_poly_section_write(f.number(), base, zone, "Cells", CGNS_ENUMV(NFACE_n), m.faces() + 1,
                               m.faces() + m.cells, 0, elements.data(), start.data(), &section));
}

void write_boundaries(const CgnsFile& f, int base, int zone, const VolumeMesh& m) {
  std::set<std::string> taken;
  for (const Boundary& p : m.boundaries) {
    if (p.count == 0) continue;
    const cgsize_t range[2] = {p.first + 1, p.first + p.count};
    int condition = 0;
    f.call(cg_boco_write(f.number(), base, zone, node_name(p.name, taken).c_str(),
                         condition_of(p.kind), CGNS_ENUMV(PointRange), 2, range, &condition));
    f.call(cg_boco_gridlocation_write(f.number(), base, zone, condition, CGNS_ENUMV(FaceCenter)));
    f.call(cg_goto(f.number(), base, "Zone_t", zone, "ZoneBC_t", 1, "BC_t", condition, "end"));
    f.call(cg_descriptor_write(name_key, p.name.c_str()));
    f.call(cg_descriptor_write(kind_key, word_of(p.kind)));
  }
}

void write_fields(const CgnsFile& f, int base, int zone, const std::vector<CellField>& fields) {
  if (fields.empty()) return;
  int solution = 0, field = 0;
  f.call(cg_sol_write(f.number(), base, zone, "CellFields", CGNS_ENUMV(CellCenter), &solution));
  std::set<std::string> taken;
  for (const CellField& c : fields)
    f.call(cg_field_write(f.number(), base, zone, solution, CGNS_ENUMV(RealDouble),
                          node_name(c.name, taken).c_str(), c.values->data(), &field));
}

/// Polygons and polyhedra as the file has them: elements numbered from one, in the order of their
/// sections.
struct Elements {
  std::vector<cgsize_t> points, face_start = {0};  ///< of polygons
  /// Of polyhedra: numbers of polygons, negative if turned
  std::vector<cgsize_t> faces, cell_start = {0};
  /// First number and first polygon of each section
  std::vector<std::pair<cgsize_t, cgsize_t>> face_numbers;

  /// Polygon with an element number, or -1.
  cgsize_t polygon(cgsize_t number) const {
    if (number < 1) return -1;
    for (std::size_t s = face_numbers.size(); s-- > 0;)
      if (number >= face_numbers[s].first) {
        const cgsize_t n = face_numbers[s].second + number - face_numbers[s].first;
        const cgsize_t end = s + 1 < face_numbers.size()
                                 ? face_numbers[s + 1].second
                                 : static_cast<cgsize_t>(face_start.size()) - 1;
        return n < end ? n : -1;
      }
    return -1;
  }
};

/// A section of elements as the file describes it.
struct Section {
  int number = 0;  ///< in the file
  char name[longest_name + 1] = {};
  CGNS_ENUMT(ElementType_t) type{};
  cgsize_t first = 0, last = 0;
};

/// In the order of their elements' numbers, which need not be that of the file.
std::vector<Section> sections_of(const CgnsFile& f) {
  int count = 0, boundary = 0, parents = 0;
  f.call(cg_nsections(f.number(), 1, 1, &count));
  std::vector<Section> all(at(count));
  for (int s = 1; s <= count; ++s) {
    Section& one = all[at(s - 1)];
    one.number = s;
    f.call(cg_section_read(f.number(), 1, 1, s, one.name, &one.type, &one.first, &one.last,
                           &boundary, &parents));
    f.refuse_link({"Zone_t", 1}, {"Elements_t", s});
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const Section& a, const Section& b) { return a.first < b.first; });
  return all;
}

Elements read_elements(const CgnsFile& f) {
  Elements e;
  for (const auto& [s, name, type, first, last] : sections_of(f)) {
    cgsize_t size = 0;
    if (type != CGNS_ENUMV(NGON_n) && type != CGNS_ENUMV(NFACE_n))
      f.refuse(
          fmt::format("section '{}' holds elements of type {}", name, cg_ElementTypeName(type)),
          "write the mesh as polygons (NGON_n) and polyhedra (NFACE_n)");
    f.call(cg_ElementDataSize(f.number(), 1, 1, s, &size));
    if (first < 1 || last < first || size < 0)
      f.refuse(fmt::format("section '{}' has no elements", name), "write the mesh anew");
    f.check_count(size), f.check_count(last - first + 1);
    std::vector<cgsize_t> data(at(size)), start(at(last - first + 2));
    f.call(cg_poly_elements_read(f.number(), 1, 1, s, data.data(), start.data(), nullptr));
    const bool polygons = type == CGNS_ENUMV(NGON_n);
    auto& into = polygons ? e.points : e.faces;
    auto& into_start = polygons ? e.face_start : e.cell_start;
    if (polygons) e.face_numbers.emplace_back(first, static_cast<cgsize_t>(into_start.size()) - 1);
    const auto offset = static_cast<cgsize_t>(into.size());
    if (start[0] != 0)
      f.refuse(fmt::format("section '{}' contradicts itself", name), "write the mesh anew");
    for (std::size_t i = 1; i < start.size(); ++i) {
      if (start[i] < start[i - 1] || start[i] > size)
        f.refuse(fmt::format("section '{}' contradicts itself", name), "write the mesh anew");
      into_start.push_back(offset + start[i]);
    }
    into.insert(into.end(), data.begin(), data.end());
  }
  std::sort(e.face_numbers.begin(), e.face_numbers.end());
  if (e.face_start.size() < 2 || e.cell_start.size() < 2)
    f.refuse("there are no polygons (NGON_n) with polyhedra (NFACE_n) in it",
             "write the mesh in that form");
  return e;
}

std::vector<Vec3> read_points(const CgnsFile& f, cgsize_t count) {
  f.check_count(count);
  f.refuse_link({"Zone_t", 1}, {"GridCoordinates_t", 1});
  std::vector<Vec3> points(at(count));
  std::vector<double> values(at(count));
  const cgsize_t first = 1;
  constexpr const char* names[] = {"CoordinateX", "CoordinateY", "CoordinateZ"};
  for (int axis = 0; axis < 3; ++axis) {
    f.call(cg_coord_read(f.number(), 1, 1, names[axis], CGNS_ENUMV(RealDouble), &first, &count,
                         values.data()));
    for (std::size_t i = 0; i < points.size(); ++i) points[i][axis] = values[i];
  }
  if (!std::all_of(points.begin(), points.end(),
                   [](const Vec3& p) { return std::isfinite(p.x + p.y + p.z); }))
    f.refuse("a point is at no place", "write the mesh anew");
  return points;
}

std::string descriptor(const std::string& key) {
  int count = 0;
  if (cg_ndescriptors(&count) != CG_OK) return "";
  for (int d = 1; d <= count; ++d) {
    char name[longest_name + 1];
    char* text = nullptr;
    if (cg_descriptor_read(d, name, &text) != CG_OK) continue;
    const std::string value = text;
    cg_free(text);
    if (name == key) return value;
  }
  return "";
}

bool means_road(std::string name) {
  std::transform(name.begin(), name.end(), name.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return name.find("road") != std::string::npos || name.find("ground") != std::string::npos;
}

/// What a boundary from elsewhere is.
BoundaryKind guessed_kind(const CgnsFile& f, const std::string& name, CGNS_ENUMT(BCType_t) type,
                          const Box& box, const Box& all) {
  const double flat = 1e-6 * norm(all.size());
  switch (type) {
    case CGNS_ENUMV(BCInflow):
    case CGNS_ENUMV(BCInflowSubsonic):
    case CGNS_ENUMV(BCFarfield): return BoundaryKind::inflow;
    case CGNS_ENUMV(BCOutflow):
    case CGNS_ENUMV(BCOutflowSubsonic):
    case CGNS_ENUMV(BCTunnelOutflow): return BoundaryKind::outflow;
    case CGNS_ENUMV(BCSymmetryPlane):
      return box.hi.y - box.lo.y < flat && std::abs(box.lo.y) < flat ? BoundaryKind::centre_plane
                                                                     : BoundaryKind::side;
    case CGNS_ENUMV(BCWallInviscid):
      return box.lo.z > all.hi.z - flat ? BoundaryKind::roof : BoundaryKind::side;
    case CGNS_ENUMV(BCWall):
    case CGNS_ENUMV(BCWallViscous):
      return means_road(name) ? BoundaryKind::road : BoundaryKind::part;
    default:
      f.refuse(fmt::format("boundary '{}' is of type {}, which says nothing to a tunnel", name,
                           cg_BCTypeName(type)),
               "use inflow, outflow, walls or symmetry planes");
  }
}

void read_boundaries(const CgnsFile& f, const Elements& e, LooseMesh& m) {
  Box all;
  for (const Vec3& p : m.points) all.include(p);
  int count = 0;
  f.call(cg_nbocos(f.number(), 1, 1, &count));
  for (int b = 1; b <= count; ++b) {
    char name[longest_name + 1];
    LooseBoundary boundary;
    CGNS_ENUMT(BCType_t) type;
    CGNS_ENUMT(PointSetType_t) kind;
    cgsize_t points = 0, normals = 0;
    int index = 0, sets = 0;
    CGNS_ENUMT(DataType_t) data;
    f.call(cg_boco_info(f.number(), 1, 1, b, name, &type, &kind, &points, &index, &normals, &data,
                        &sets));
    CGNS_ENUMT(GridLocation_t) location = CGNS_ENUMV(FaceCenter);
    f.call(cg_boco_gridlocation_read(f.number(), 1, 1, b, &location));
    const bool elements = kind == CGNS_ENUMV(ElementRange) || kind == CGNS_ENUMV(ElementList);
    if (!elements && location != CGNS_ENUMV(FaceCenter))
      f.refuse(fmt::format("boundary '{}' is given by its points", name),
               "give it by its faces (FaceCenter)");
    f.check_count(points);
    std::vector<cgsize_t> numbers(at(points));
    f.call(cg_boco_read(f.number(), 1, 1, b, numbers.data(), nullptr));
    if (kind == CGNS_ENUMV(PointRange) || kind == CGNS_ENUMV(ElementRange)) {
      if (numbers.size() != 2)
        f.refuse(fmt::format("boundary '{}' has no sensible range", name), "write the mesh anew");
      const cgsize_t first = numbers[0], last = numbers[1];
      if (first < 1 || last < first || last - first >= static_cast<cgsize_t>(e.face_start.size()))
        f.refuse(fmt::format("boundary '{}' has no sensible range", name), "write the mesh anew");
      numbers.resize(at(last - first + 1));
      std::iota(numbers.begin(), numbers.end(), first);
    }
    for (const cgsize_t n : numbers) {
      const cgsize_t p = e.polygon(n);
      if (p < 0)
        f.refuse(fmt::format("boundary '{}' names face {}, which does not exist", name, n),
                 "write the mesh anew");
      boundary.polygons.push_back(static_cast<int>(p));
    }
    boundary.name = name;
    f.call(cg_goto(f.number(), 1, "Zone_t", 1, "ZoneBC_t", 1, "BC_t", b, "end"));
    if (const std::string full = descriptor(name_key); !full.empty()) boundary.name = full;
    const int kind_told = kind_of(descriptor(kind_key));
    boundary.kind = kind_told >= 0
                        ? static_cast<BoundaryKind>(kind_told)
                        : guessed_kind(f, boundary.name, type, m.box_of(boundary.polygons), all);
    m.boundaries.push_back(std::move(boundary));
  }
}

std::vector<Sides> sides_of(const CgnsFile& f, const Elements& e) {
  std::vector<Sides> sides(e.face_start.size() - 1);
  for (std::size_t c = 0; c + 1 < e.cell_start.size(); ++c)
    for (cgsize_t k = e.cell_start[c]; k < e.cell_start[c + 1]; ++k) {
      const cgsize_t number = e.faces[at(k)];
      const cgsize_t p =
          number > 0 ? e.polygon(number) : e.polygon(-std::max(number, -most_number));
      if (p < 0)
        f.refuse(fmt::format("cell {} has face {}, which does not exist", c + 1, number),
                 "write the mesh anew");
      int& side = number > 0 ? sides[at(p)].below : sides[at(p)].above;
      if (side >= 0)
        f.refuse(fmt::format("face {} belongs to two cells on the same side", std::abs(number)),
                 "write the mesh anew");
      side = static_cast<int>(c);
    }
  return sides;
}

}  // namespace

void write_cgns(const std::filesystem::path& file, const VolumeMesh& m,
                const std::vector<CellField>& fields) {
  if (m.face_points.size() > at(std::numeric_limits<cgsize_t>::max()) / 2)
    throw OutputError("the mesh is too large for this form of CGNS", file.string(),
                      "write it as VTU");
  FreshFile fresh(file);
  fresh.out().close();
  CgnsFile f(fresh.path(), true);
  int base = 0, zone = 0;
  f.call(cg_base_write(f.number(), "Dunefield", 3, 3, &base));
  const cgsize_t sizes[3] = {static_cast<cgsize_t>(m.points.size()), m.cells, 0};
  f.call(cg_zone_write(f.number(), base, "Air", sizes, CGNS_ENUMV(Unstructured), &zone));
  write_coordinates(f, base, zone, m.points);
  write_elements(f, base, zone, m);
  write_boundaries(f, base, zone, m);
  write_fields(f, base, zone, fields);
  f.close();
  fresh.place();
}

VolumeMesh read_cgns(const std::filesystem::path& file) {
  if (!std::filesystem::is_regular_file(file))
    throw InputError("there is no such file", file.string(), "check the path");
  CgnsFile f(file, false);
  int zones = 0, bases = 0;
  f.call(cg_nbases(f.number(), &bases));
  if (bases < 1) f.refuse("there is no base in it", "write the mesh anew");
  f.call(cg_nzones(f.number(), 1, &zones));
  if (zones != 1)
    f.refuse(fmt::format("it has {} zones", zones), "write the mesh as one unstructured zone");
  CGNS_ENUMT(ZoneType_t) type;
  f.call(cg_zone_type(f.number(), 1, 1, &type));
  if (type != CGNS_ENUMV(Unstructured))
    f.refuse("its zone is structured", "write it as an unstructured one");
  char name[longest_name + 1];
  cgsize_t sizes[9] = {};
  f.call(cg_zone_read(f.number(), 1, 1, name, sizes));
  const Elements elements = read_elements(f);
  if (elements.points.size() > at(std::numeric_limits<int>::max()) ||
      elements.cell_start.size() > at(std::numeric_limits<int>::max()))
    f.refuse("the mesh is too large", "use one of fewer than 2 billion points of faces");
  LooseMesh m;
  m.points = read_points(f, sizes[0]);
  m.face_start.assign(elements.face_start.begin(), elements.face_start.end());
  for (const cgsize_t p : elements.points)
    m.face_points.push_back(p < 1 || p > sizes[0] ? -1 : static_cast<int>(p - 1));
  m.cells = static_cast<int>(elements.cell_start.size()) - 1;
  m.sides = sides_of(f, elements);
  read_boundaries(f, elements, m);
  return put_in_order(std::move(m), file.string());
}

}  // namespace dunefield
