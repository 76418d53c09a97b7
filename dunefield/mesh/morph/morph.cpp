#include <dunefield/mesh/morph/morph.hpp>

#include <algorithm>
#include <chrono>
#include <map>

#include <fmt/format.h>

#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/mesh/morph/edge_graph.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// Of a wall's shortest edge: parts that touch may move apart by so much.
constexpr double parting = 0.1;

/// The displacement of a surface, read off beside its facets.
class SurfaceMove {
 public:
  SurfaceMove(const Surface& from, const Surface& to) : from_(from), to_(to) {}

  /// @param part of the surface's; -1: any
  Vec3 at_place(const Vec3& x, int part) {
    const Tree& tree = tree_of(part);
    const NearestTree::Found found = tree.tree.nearest(x, 1e6);
    if (found.triangle < 0) return {};
    const std::size_t t = at(tree.facet[at(found.triangle)]);
    return interpolated(t, found.point);
  }
  /// Made before it is asked by several threads at once.
  void prepare(int part) { tree_of(part); }

 private:
  struct Tree {
    std::vector<int> facet;
    NearestTree tree;
  };

  const Tree& tree_of(int part) {
    if (const auto it = trees_.find(part); it != trees_.end()) return it->second;
    Surface own;
    own.points = from_.points, own.part_names = {"part"};
    std::vector<int> facet;
    for (std::size_t t = 0; t < from_.size(); ++t)
      if (part < 0 || from_.part_of[t] == part)
        own.triangles.push_back(from_.triangles[t]), own.part_of.push_back(0),
            facet.push_back(static_cast<int>(t));
    return trees_.emplace(part, Tree{std::move(facet), NearestTree(own)}).first->second;
  }

  Vec3 interpolated(std::size_t t, const Vec3& x) const {
    const Vec3 a = from_.corner(t, 0), b = from_.corner(t, 1), c = from_.corner(t, 2);
    const Vec3 n = cross(b - a, c - a);
    const double whole = norm2(n);
    double share[3] = {1.0 / 3, 1.0 / 3, 1.0 / 3};
    if (whole > 0) {
      share[0] = dot(n, cross(b - x, c - x)) / whole,
      share[1] = dot(n, cross(c - x, a - x)) / whole;
      share[2] = 1 - share[0] - share[1];
    }
    Vec3 moved;
    for (int k = 0; k < 3; ++k) moved += (to_.corner(t, k) - from_.corner(t, k)) * share[k];
    return moved;
  }

  const Surface& from_;
  const Surface& to_;
  std::map<int, Tree> trees_;
};

struct Walls {
  std::vector<Given> given;
  std::vector<Vec3> displacement;
};

template <class Visit>
void for_points(const VolumeMesh& m, const Boundary& b, const Visit& visit) {
  for (int f = b.first; f < b.first + b.count; ++f)
    for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k) visit(m.face_points[at(k)]);
}

/// Each point's shortest edge along its walls.
std::vector<double> wall_edges(const VolumeMesh& m) {
  std::vector<double> shortest(m.points.size(), 1e300);
  for (const Boundary& b : m.boundaries) {
    if (b.kind != BoundaryKind::part) continue;
    for (int f = b.first; f < b.first + b.count; ++f) {
      const int first = m.face_start[at(f)], last = m.face_start[at(f) + 1];
      for (int k = first; k < last; ++k) {
        const std::size_t i = at(m.face_points[at(k)]),
                          j = at(m.face_points[at(k + 1 < last ? k + 1 : first)]);
        const double length = norm(m.points[i] - m.points[j]);
        shortest[i] = std::min(shortest[i], length), shortest[j] = std::min(shortest[j], length);
      }
    }
  }
  return shortest;
}

[[noreturn]] void refuse(const std::string& what, const Vec3& x) {
  throw MeshError(fmt::format("the mesh cannot be deformed: {} at ({:.3f}, {:.3f}, {:.3f}) m", what,
                              x.x, x.y, x.z),
                  "morph", "mesh the variant on its own");
}

/// Displacements of the walls, the mean of those of the parts that meet at a point.
void move_walls(const VolumeMesh& m, SurfaceMove& move, const Surface& from, Walls& w) {
  const std::vector<double> edge = wall_edges(m);
  std::vector<int> parts(m.points.size(), 0);
  for (const Boundary& b : m.boundaries) {
    if (b.kind != BoundaryKind::part) continue;
    const int part = from.find_part(b.name);
    move.prepare(part);
    std::vector<int> own;
    for_points(m, b, [&](int p) { own.push_back(p); });
    std::sort(own.begin(), own.end());
    own.erase(std::unique(own.begin(), own.end()), own.end());
    std::vector<Vec3> moved(own.size());
    parallel_for(own.size(),
                 [&](std::size_t i) { moved[i] = move.at_place(m.points[at(own[i])], part); });
    for (std::size_t i = 0; i < own.size(); ++i) {
      const std::size_t p = at(own[i]);
      const double n = parts[p]++;
      if (n > 0 && norm(moved[i] - w.displacement[p]) > parting * edge[p])
        refuse("parts that touch move apart", m.points[p]);
      w.displacement[p] = (w.displacement[p] * n + moved[i]) / (n + 1);
      w.given[p] = {true, true, true};
    }
  }
}

/// What stays on a plane: its points move along it only.
void keep_on_planes(const VolumeMesh& m, Walls& w) {
  for (const Boundary& b : m.boundaries) {
    if (b.kind == BoundaryKind::part) continue;
    const int normal = b.kind == BoundaryKind::road           ? 2
                       : b.kind == BoundaryKind::centre_plane ? 1
                                                              : -1;
    for_points(m, b, [&](int point) {
      const std::size_t p = at(point);
      const bool wall = w.given[p][0] && w.given[p][1] && w.given[p][2];
      if (normal < 0) {
        w.given[p] = {true, true, true};
        w.displacement[p] = {};
        return;
      }
      constexpr double rounding = 1e-9;
      if (wall && std::abs(w.displacement[p][normal]) > rounding)
        refuse(normal == 2 ? "a part would leave the road" : "a part would leave the centre plane",
               m.points[p]);
      w.given[p][at(normal)] = true, w.displacement[p][normal] = 0;
    });
  }
}

VolumeMesh moved_by(const VolumeMesh& m, const std::vector<Vec3>& displacement, double share) {
  VolumeMesh out = m;
  for (std::size_t i = 0; i < out.points.size(); ++i) out.points[i] += displacement[i] * share;
  out.derive();
  return out;
}

/// Sound, and no measure worse than tolerated that was not so before.
bool bears(const MeshQuality& before, const MeshQuality& after) {
  if (!after.sound()) return false;
  for (std::size_t i = 0; i < measures; ++i)
    if (after.summary[i].bad() && !before.summary[i].bad()) return false;
  return true;
}

/// The share of a displacement that a mesh bears, to a sixteenth.
double share_borne(const VolumeMesh& m, const MeshQuality& before,
                   const std::vector<Vec3>& displacement) {
  double good = 0, bad = 1;
  for (int i = 0; i < 4; ++i) {
    const double share = 0.5 * (good + bad);
    (bears(before, measure_quality(moved_by(m, displacement, share))) ? good : bad) = share;
  }
  return good;
}

}  // namespace

bool same_facets(const Surface& a, const Surface& b) {
  return a.size() == b.size() && a.part_of == b.part_of && a.part_names == b.part_names;
}

MeshResult morphed(const MeshResult& mesh, const Surface& from, const Surface& to,
                   const Progress& progress) {
  const auto start = std::chrono::steady_clock::now();
  if (!same_facets(from, to))
    throw MeshError("the mesh cannot be deformed: the facets differ", "morph",
                    "mesh the variant on its own");
  const VolumeMesh& m = mesh.mesh;
  Walls walls{std::vector<Given>(m.points.size(), Given{}), std::vector<Vec3>(m.points.size())};
  SurfaceMove move(from, to);
  move_walls(m, move, from, walls);
  keep_on_planes(m, walls);
  make_harmonic(edge_graph(m), walls.given, walls.displacement, progress);
  MeshResult out = mesh;
  out.mesh = moved_by(m, walls.displacement, 1);
  out.quality = measure_quality(out.mesh);
  // Measured here: what a record tells of its mesh may be of another version.
  const MeshQuality before = measure_quality(m);
  if (!bears(before, out.quality))
    throw MeshError(
        fmt::format("the mesh tolerates {:.0f} % of this change before cells become invalid",
                    100 * share_borne(m, before, walls.displacement)),
        "morph", "reduce the change, or mesh the variant on its own");
  double largest = 0;
  for (const Vec3& d : walls.displacement) largest = std::max(largest, norm(d));
  out.findings.note(
      fmt::format("the mesh is the baseline's, deformed by up to {:.1f} mm", 1000 * largest),
      "mesh.follows-shape");
  out.follows = true;
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return out;
}

}  // namespace dunefield
