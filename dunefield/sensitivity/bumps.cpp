#include <dunefield/sensitivity/bumps.hpp>

#include <algorithm>
#include <array>
#include <map>
#include <numbers>
#include <optional>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/morph/edge_graph.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double alike = 0.3;     // least cosine between normals of one bump
constexpr double end_in_air = 2;  // radii, to where the air moves with a bump
constexpr double apart = 5;  // radii between bumps that are put on together: their air is apart,
                             // and so are the cells whose gradients see it

double height(double distance, double radius) {
  if (distance >= radius) return 0;
  const double c = std::cos(0.5 * std::numbers::pi * distance / radius);
  return c * c;
}

struct WallPoint {
  int point, part;
  Vec3 place, normal;
  double area;
};

/// The y of a section's middle, one cell thick: both of its sides move alike. None of other meshes.
std::optional<double> middle_of_section(const VolumeMesh& m) {
  const double y = m.cell_centre.front().y;
  const bool flat = std::all_of(m.cell_centre.begin(), m.cell_centre.end(),
                                [&](const Vec3& x) { return std::abs(x.y - y) < 1e-9; });
  return flat ? std::optional(y) : std::nullopt;
}

/// Points of the vehicle's walls, one for each part that they belong to.
std::vector<WallPoint> wall_points(const AdjointFlow& a) {
  const VolumeMesh& m = a.mesh;
  const std::optional<double> middle = middle_of_section(m);
  std::vector<WallPoint> all;
  std::vector<int> number(m.points.size(), -1);
  for (std::size_t p = 0; p < m.boundaries.size(); ++p) {
    const Boundary& b = m.boundaries[p];
    if (b.kind != BoundaryKind::part || a.flow_case.conditions[p].kind != ConditionKind::wall)
      continue;
    const std::size_t first = all.size();
    for (int f = b.first; f < b.first + b.count; ++f) {
      const int corners = m.face_start[at(f) + 1] - m.face_start[at(f)];
      for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k) {
        const int point = m.face_points[at(k)];
        int& n = number[at(point)];
        if (n < static_cast<int>(first)) {
          n = static_cast<int>(all.size());
          all.push_back({point, static_cast<int>(p), m.points[at(point)], {}, 0});
        }
        all[at(n)].normal -= m.face_area[at(f)] / corners;  // the mesh's point out of the air
        all[at(n)].area += norm(m.face_area[at(f)]) / corners;
      }
    }
    for (std::size_t i = first; i < all.size(); ++i) {
      all[i].normal = unit(all[i].normal);
      if (middle) all[i].place.y = *middle;
    }
  }
  return all;
}

/// Cells of a grid as wide as what is looked for, with the numbers of what lies in them.
class PlaceGrid {
 public:
  explicit PlaceGrid(double width) : width_(width) {}
  void add(const Vec3& x, int number) { cells_[key(x)].push_back(number); }
  template <class Visit>
  void near(const Vec3& x, const Visit& visit) const {
    for (int i = -1; i <= 1; ++i)
      for (int j = -1; j <= 1; ++j)
        for (int k = -1; k <= 1; ++k)
          if (const auto it = cells_.find(key(x + Vec3{i * width_, j * width_, k * width_}));
              it != cells_.end())
            for (const int n : it->second) visit(n);
  }

 private:
  std::array<int, 3> key(const Vec3& x) const {
    return {static_cast<int>(std::floor(x.x / width_)), static_cast<int>(std::floor(x.y / width_)),
            static_cast<int>(std::floor(x.z / width_))};
  }
  double width_;
  std::map<std::array<int, 3>, std::vector<int>> cells_;
};

std::vector<Bump> placed_bumps(const std::vector<WallPoint>& points, double radius) {
  std::vector<Bump> bumps;
  PlaceGrid grid(radius);
  for (const WallPoint& p : points) {
    bool taken = false;
    grid.near(p.place, [&](int n) {
      const Bump& b = bumps[at(n)];
      taken |=
          b.part == p.part && norm(b.place - p.place) < radius && dot(b.normal, p.normal) > alike;
    });
    if (taken) continue;
    grid.add(p.place, static_cast<int>(bumps.size()));
    bumps.push_back({p.part, p.place, p.normal, 0, {}});
  }
  for (const WallPoint& p : points)
    grid.near(p.place, [&](int n) {
      Bump& b = bumps[at(n)];
      if (b.part == p.part && dot(b.normal, p.normal) > alike)
        b.area += p.area * height(norm(b.place - p.place), radius);
    });
  return bumps;
}

/// Groups of bumps that are far from each other, first come first served.
std::vector<std::vector<int>> grouped(const std::vector<Bump>& bumps, double radius) {
  const double far = apart * radius;
  PlaceGrid grid(far);
  std::vector<int> group(bumps.size(), -1);
  std::vector<std::vector<int>> groups;
  for (std::size_t i = 0; i < bumps.size(); ++i) {
    std::vector<char> used(groups.size(), 0);
    grid.near(bumps[i].place, [&](int n) {
      if (norm(bumps[at(n)].place - bumps[i].place) < far) used[at(group[at(n)])] = 1;
    });
    const auto free =
        static_cast<std::size_t>(std::find(used.begin(), used.end(), 0) - used.begin());
    if (free == groups.size()) groups.emplace_back();
    group[i] = static_cast<int>(free);
    groups[free].push_back(static_cast<int>(i));
    grid.add(bumps[i].place, static_cast<int>(i));
  }
  return groups;
}

/// The axis that the points of a boundary stay square to, since they lie in a plane that the air
/// may be moved along; -1: they stay where they are. All points of a section lie in its sides.
int plane_of(const VolumeMesh& m, const Boundary& b, bool section) {
  if (b.kind == BoundaryKind::road) return 2;
  if (b.kind == BoundaryKind::centre_plane) return 1;
  if (!section || b.kind != BoundaryKind::side || b.count == 0) return -1;
  const Vec3 normal = unit(m.face_area[at(b.first)]);
  return std::abs(normal.y) > 0.999 ? 1 : -1;
}

/// Carries a displacement of the walls into the air around, smoothly: what is rough there would be
/// felt as an error of the mesh.
class Extension {
 public:
  explicit Extension(const VolumeMesh& mesh)
      : mesh_(mesh), middle_(middle_of_section(mesh)), graph_(edge_graph(mesh)) {
    given_.resize(mesh.points.size(), Given{});
    for (const bool planes : {true, false})  // walls and tunnel have the last word
      for (const Boundary& b : mesh.boundaries) {
        const int normal = plane_of(mesh, b, middle_.has_value());
        if ((normal >= 0) != planes) continue;
        for (int f = b.first; f < b.first + b.count; ++f)
          for (int k = mesh.face_start[at(f)]; k < mesh.face_start[at(f) + 1]; ++k) {
            Given& g = given_[at(mesh.face_points[at(k)])];
            if (normal >= 0)
              g[at(normal)] = true, on_plane_.push_back({mesh.face_points[at(k)], normal});
            else
              g = {true, true, true};
          }
      }
  }

  /// @param way of the walls' points, and then of all; nothing farther than `end` from `tops`
  void into_air(std::vector<Vec3>& way, const PlaceGrid& tops, const std::vector<Bump>& bumps,
                double end, const Progress& progress) const {
    for (const auto& [point, normal] : on_plane_) way[at(point)][normal] = 0;
    Progress quiet = progress;
    quiet.report = [](const std::string&, double) {};
    make_harmonic(graph_, given_, way, quiet);
    parallel_for(way.size(), [&](std::size_t i) {
      double nearest = end;
      Vec3 x = mesh_.points[i];
      if (middle_) x.y = *middle_;
      tops.near(x, [&](int n) { nearest = std::min(nearest, norm(bumps[at(n)].place - x)); });
      way[i] *= height(std::max(0.0, 2 * nearest - end), end);  // whole up to half of the end
    });
  }

 private:
  struct OnPlane {
    int point, normal;
  };
  const VolumeMesh& mesh_;
  const std::optional<double> middle_;
  EdgeGraph graph_;
  std::vector<Given> given_;
  std::vector<OnPlane> on_plane_;
};

/// Bumps on the walls of a flow's mesh, and the air that moves with them.
class BumpMover {
 public:
  BumpMover(const AdjointFlow& a, double radius)
      : points_(a.mesh.points.size()), radius_(radius), walls_(wall_points(a)), air_(a.mesh) {}

  std::vector<Bump> placed() const { return placed_bumps(walls_, radius_); }

  /// @return by how much each point moves where bumps of 1 m are put on
  std::vector<Vec3> way_of(const std::vector<Bump>& bumps, const std::vector<int>& which,
                           const Progress& progress) const {
    PlaceGrid near(radius_), around(end_in_air * radius_);
    for (const int n : which) near.add(bumps[at(n)].place, n), around.add(bumps[at(n)].place, n);
    std::vector<Vec3> way(points_);
    for (const WallPoint& p : walls_)
      near.near(p.place, [&](int n) {
        const Bump& b = bumps[at(n)];
        if (b.part != p.part || dot(b.normal, p.normal) <= alike) return;
        const Vec3 out = p.normal * height(norm(b.place - p.place), radius_);
        if (norm2(out) > 0) way[at(p.point)] = out;
      });
    air_.into_air(way, around, bumps, end_in_air * radius_, progress);
    return way;
  }

 private:
  std::size_t points_;
  double radius_;
  std::vector<WallPoint> walls_;
  Extension air_;
};

/// Each change of the equations and loads goes to the nearest bump of those that were put on. All
/// of it: what a bump does is a small rest of large terms.
void share_out(const AdjointFlow& a, const MovedFlow& here, const MovedFlow& there,
               const std::vector<int>& which, double step, std::vector<Bump>& bumps) {
  const VolumeMesh& m = a.mesh;
  const std::optional<double> middle = middle_of_section(m);
  const auto owner = [&](Vec3 x) -> Bump& {
    if (middle) x.y = *middle;
    return bumps[at(*std::min_element(which.begin(), which.end(), [&](int i, int j) {
      return norm2(bumps[at(i)].place - x) < norm2(bumps[at(j)].place - x);
    }))];
  };
  for (std::size_t c = 0; c < at(m.cells); ++c) {
    const Vec3 du = there.residual.u[c] - here.residual.u[c];
    const double dp = there.residual.p[c] - here.residual.p[c];
    if (du == Vec3{} && dp == 0) continue;
    Bump& b = owner(m.cell_centre[c]);
    for (std::size_t k = 0; k < a.adjoints.size(); ++k)
      b.density[k] += (dot(a.adjoints[k].lambda.u[c], du) + a.adjoints[k].lambda.p[c] * dp) / step;
  }
  for (std::size_t i = 0; i < here.loads.size(); ++i) {
    const double change = there.loads[i] - here.loads[i];
    if (change == 0) continue;
    for (double& d : owner(m.face_centre[at(m.interior_faces()) + i]).density) d += change / step;
  }
}

}  // namespace

std::vector<Bump> bump_gradients(const AdjointFlow& a, double radius, const Progress& progress) {
  const BumpMover mover(a, radius);
  std::vector<Bump> bumps = mover.placed();
  const std::vector<std::vector<int>> groups = grouped(bumps, radius);
  for (Bump& b : bumps) b.density.assign(a.adjoints.size(), 0);
  for (std::size_t g = 0; g < groups.size(); ++g) {
    progress.check();
    progress("surface", double(g) / double(groups.size()));
    const std::vector<Vec3> way = mover.way_of(bumps, groups[g], progress);
    const double step = 0.5 * difference_step(a.mesh, way);
    const MovedFlow there = moved_flow(a, way, step), back = moved_flow(a, way, -step);
    share_out(a, back, there, groups[g], 2 * step, bumps);
  }
  for (Bump& b : bumps)
    for (double& d : b.density) d /= std::max(b.area, 1e-12);
  return bumps;
}

std::vector<Vec3> bump_displacement(const AdjointFlow& a, const Bump& bump, double radius) {
  return BumpMover(a, radius).way_of({bump}, {0}, {});
}

double density_at(const std::vector<Bump>& bumps, double radius, int part, const Vec3& place,
                  const Vec3& normal, std::size_t which) {
  double sum = 0, weights = 0;
  for (const Bump& b : bumps) {
    if (b.part != part || dot(b.normal, normal) <= alike) continue;
    const double h = height(norm(b.place - place), radius) * b.area;
    sum += h * b.density[which], weights += h;
  }
  return weights > 0 ? sum / weights : 0;
}

}  // namespace dunefield
