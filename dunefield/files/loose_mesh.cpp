#include <dunefield/files/loose_mesh.hpp>

#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr const char* kind_words[] = {"inflow", "outflow",      "side", "roof",
                                      "road",   "centre plane", "part"};

class Assembly {
 public:
  Assembly(LooseMesh&& loose, const std::string& file) : loose_(std::move(loose)), file_(file) {}

  VolumeMesh assembled() {
    check_points();
    mesh_.cells = loose_.cells;
    mesh_.face_start = {0};
    add_interior();
    add_boundaries();
    mesh_.points = std::move(loose_.points);
    mesh_.derive();
    check_cells();
    return std::move(mesh_);
  }

 private:
  [[noreturn]] void refuse(const std::string& what, const std::string& advice) const {
    throw InputError(what, file_, advice);
  }

  void check_points() const {
    for (const int p : loose_.face_points)
      if (p < 0 || at(p) >= loose_.points.size())
        refuse(fmt::format("a face has point {}, which does not exist", p + 1),
               "write the mesh anew");
    for (std::size_t k = 0; k + 1 < loose_.face_start.size(); ++k)
      if (loose_.face_start[k + 1] - loose_.face_start[k] < 3)
        refuse("a face has less than three points", "write the mesh anew");
  }

  void add_face(int polygon, bool turned, int below) {
    const auto first = static_cast<std::ptrdiff_t>(mesh_.face_points.size());
    for (int k = loose_.face_start[at(polygon)]; k < loose_.face_start[at(polygon) + 1]; ++k)
      mesh_.face_points.push_back(loose_.face_points[at(k)]);
    if (turned) std::reverse(mesh_.face_points.begin() + first, mesh_.face_points.end());
    mesh_.face_start.push_back(static_cast<int>(mesh_.face_points.size()));
    mesh_.cell_below.push_back(below);
  }

  void add_interior() {
    std::vector<int> inside;
    for (int p = 0; p < loose_.polygons(); ++p)
      if (loose_.sides[at(p)].below >= 0 && loose_.sides[at(p)].above >= 0) inside.push_back(p);
    const auto low = [&](int p) {
      return std::min(loose_.sides[at(p)].below, loose_.sides[at(p)].above);
    };
    std::stable_sort(inside.begin(), inside.end(), [&](int a, int b) { return low(a) < low(b); });
    for (const int p : inside) {
      const auto [below, above] = std::minmax(loose_.sides[at(p)].below, loose_.sides[at(p)].above);
      add_face(p, loose_.sides[at(p)].below != below, below);
      mesh_.cell_above.push_back(above);
    }
  }

  void add_boundaries() {
    std::vector<char> taken(loose_.sides.size(), 0);
    for (const LooseBoundary& boundary : loose_.boundaries) {
      const int first = mesh_.faces();
      for (const int p : boundary.polygons) {
        const Sides& s = loose_.sides[at(p)];
        if ((s.below < 0) == (s.above < 0))
          refuse(fmt::format("boundary '{}' has a face with {} cells beside it", boundary.name,
                             s.below < 0 ? "no" : "two"),
                 "a boundary is the outside of one cell");
        if (std::exchange(taken[at(p)], 1))
          refuse(fmt::format("boundary '{}' has a face that another one has, too", boundary.name),
                 "a face belongs to one boundary");
        add_face(p, s.below < 0, std::max(s.below, s.above));
      }
      mesh_.boundaries.push_back({boundary.name, boundary.kind, first, mesh_.faces() - first});
    }
    std::size_t bare = 0;
    for (std::size_t p = 0; p < taken.size(); ++p)
      bare += ((loose_.sides[p].below < 0) != (loose_.sides[p].above < 0)) && !taken[p];
    if (bare > 0)
      refuse(fmt::format("{} faces at the outside belong to no boundary", bare),
             "put each face of the outside on a boundary");
  }

  void check_cells() const {
    std::vector<Vec3> sum(at(mesh_.cells));
    std::vector<double> size(at(mesh_.cells), 0);
    for (int k = 0; k < mesh_.faces(); ++k) {
      const Vec3& s = mesh_.face_area[at(k)];
      sum[at(mesh_.cell_below[at(k)])] += s, size[at(mesh_.cell_below[at(k)])] += norm(s);
      if (k < mesh_.interior_faces())
        sum[at(mesh_.cell_above[at(k)])] += -s, size[at(mesh_.cell_above[at(k)])] += norm(s);
    }
    constexpr double open = 1e-6;
    for (int c = 0; c < mesh_.cells; ++c) {
      if (norm(sum[at(c)]) > open * size[at(c)] || !(size[at(c)] > 0))
        refuse(fmt::format("cell {} is not closed", c + 1),
               "each cell must have all its faces, turned outward");
      if (!(mesh_.cell_volume[at(c)] > 0))
        refuse(fmt::format("cell {} has no positive volume", c + 1),
               "the faces of a cell must point out of it");
    }
  }

  LooseMesh loose_;
  VolumeMesh mesh_;
  const std::string& file_;
};

}  // namespace

Box LooseMesh::box_of(const std::vector<int>& which) const {
  Box box;
  for (const int p : which)
    for (int k = face_start[at(p)]; k < face_start[at(p) + 1]; ++k)
      // others are refused later
      if (const auto point = at(face_points[at(k)]); point < points.size())
        box.include(points[point]);
  return box;
}

VolumeMesh put_in_order(LooseMesh&& loose, const std::string& file) {
  return Assembly(std::move(loose), file).assembled();
}

const char* word_of(BoundaryKind kind) { return kind_words[static_cast<int>(kind)]; }

int kind_of(const std::string& word) {
  const auto it = std::find(std::begin(kind_words), std::end(kind_words), word);
  return it == std::end(kind_words) ? -1 : static_cast<int>(it - std::begin(kind_words));
}

}  // namespace dunefield
