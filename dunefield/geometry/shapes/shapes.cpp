#include <dunefield/geometry/shapes/shapes.hpp>

#include <numbers>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/shapes/polygon.hpp>

namespace dunefield {
namespace {

constexpr double pi = std::numbers::pi;

void turn_outward(Surface& s) {
  if (signed_volume(s) < 0)
    for (auto& t : s.triangles) std::swap(t[1], t[2]);
}

}  // namespace

Surface loft(const std::string& part, const std::vector<std::vector<Vec3>>& rings) {
  if (rings.size() < 2) throw InputError("a loft needs at least two rings", part, "add a ring");
  const int n = static_cast<int>(rings[0].size());
  Surface s;
  s.part_names = {part};
  for (const auto& ring : rings) {
    if (static_cast<int>(ring.size()) != n || n < 3)
      throw InputError("the rings of a loft must have the same number of points, at least three",
                       part, "resample the rings");
    s.points.insert(s.points.end(), ring.begin(), ring.end());
  }
  const int last = static_cast<int>(rings.size()) - 1;
  for (int r = 0; r < last; ++r)
    for (int i = 0; i < n; ++i) {
      const int a = r * n + i, b = r * n + (i + 1) % n, c = a + n, d = b + n;
      s.triangles.push_back({a, b, d});
      s.triangles.push_back({a, d, c});
    }
  for (const int r : {0, last}) {
    Vec3 mean;
    for (const Vec3& p : rings[at(r)]) mean += p / n;
    const int centre = static_cast<int>(s.points.size());
    s.points.push_back(mean);
    for (int i = 0; i < n; ++i) {
      const int a = r * n + i, b = r * n + (i + 1) % n;
      if (r == 0)
        s.triangles.push_back({centre, b, a});
      else
        s.triangles.push_back({centre, a, b});
    }
  }
  s.part_of.assign(s.size(), 0);
  weld(s);
  turn_outward(s);
  return s;
}

Surface revolve(const std::string& part, const std::vector<std::array<double, 2>>& profile,
                const Vec3& centre, const Vec3& direction, int segments) {
  const Vec3 axis = unit(direction);
  const Vec3 e1 = unit(cross(axis, std::abs(axis.x) < 0.9 ? Vec3{1, 0, 0} : Vec3{0, 1, 0})),
             e2 = cross(axis, e1);
  std::vector<std::vector<Vec3>> rings;
  for (const auto& [along, radius] : profile) {
    std::vector<Vec3> ring;
    for (int i = 0; i < segments; ++i) {
      const double a = 2 * pi * i / segments;
      ring.push_back(centre + axis * along + (e1 * std::cos(a) + e2 * std::sin(a)) * radius);
    }
    rings.push_back(std::move(ring));
  }
  return loft(part, rings);
}

Surface rounded_box(const std::string& part, const Box& box, double radius, int per_quarter) {
  // A sphere of `radius` whose octants are pulled apart to the box's corners; sharp when the radius
  // is zero.
  const int quarter = radius > 0 ? per_quarter : 1;
  const Vec3 lo = box.lo + Vec3{radius, radius, radius}, hi = box.hi - Vec3{radius, radius, radius};
  const auto angles = [&](double from, double to) {
    std::vector<double> a;
    for (int i = 0; i <= quarter; ++i) a.push_back(from + (to - from) * i / quarter);
    return a;
  };
  std::vector<std::vector<Vec3>> rings;
  for (const int half : {0, 1}) {
    for (const double latitude :
         radius > 0 ? angles(half ? 0 : -pi / 2, half ? pi / 2 : 0) : std::vector<double>{0}) {
      std::vector<Vec3> ring;
      for (int corner = 0; corner < 4; ++corner) {
        const bool right = corner == 1 || corner == 2, top = corner >= 2;
        // ring in the y-z plane, from the lower left corner
        const double middle = pi * (1.25 + 0.5 * corner);
        for (const double a :
             radius > 0 ? angles(middle - pi / 4, middle + pi / 4) : std::vector<double>{middle}) {
          const double r = radius * std::cos(latitude);
          ring.push_back({(half ? hi.x : lo.x) + radius * std::sin(latitude),
                          (right ? hi.y : lo.y) + r * std::cos(a),
                          (top ? hi.z : lo.z) + r * std::sin(a)});
        }
      }
      rings.push_back(std::move(ring));
    }
  }
  return loft(part, rings);
}

Surface cylinder(const std::string& part, const Vec3& from, const Vec3& to, double radius,
                 int segments) {
  const double length = norm(to - from);
  if (!(length > 0 && radius > 0))
    throw InputError("a cylinder needs a length and a radius above zero", part, "check them");
  return revolve(part, {{0, radius}, {length, radius}}, from, to - from, segments);
}

Surface plate(const std::string& part, const std::vector<Vec3>& line, const Vec3& extrusion,
              double thickness) {
  if (line.size() < 2)
    throw InputError("a plate needs a line of at least two points", part, "add a point");
  if (!(thickness > 0) || !(norm(extrusion) > 0))
    throw InputError("a plate needs an extrusion and a thickness above zero", part, "check them");
  // Normals at the corners: the mean of those of the neighbouring pieces, longer at bends so that
  // the thickness stays.
  const Vec3 along = unit(extrusion);
  std::vector<Vec3> piece;
  for (std::size_t i = 0; i + 1 < line.size(); ++i) {
    const Vec3 n = unit(cross(line[i + 1] - line[i], along));
    if (!(norm(n) > 0))
      throw InputError("a plate's line has a piece without length or along the extrusion", part,
                       "check its points");
    piece.push_back(n);
  }
  std::vector<std::vector<Vec3>> rings(2);
  for (const int end : {0, 1})
    for (const int side : {1, -1})
      for (std::size_t k = 0; k < line.size(); ++k) {
        const std::size_t i = side > 0 ? k : line.size() - 1 - k;
        const Vec3 a = piece[i == 0 ? 0 : i - 1], b = piece[std::min(i, piece.size() - 1)],
                   mean = unit(a + b);
        const double stretch = 1 / std::max(0.3, dot(mean, a));
        rings[at(end)].push_back(line[i] + extrusion * end +
                                 mean * (0.5 * side * thickness * stretch));
      }
  // Flat ends: the outline is cut into triangles, since a bent line's is not convex.
  Surface s;
  s.part_names = {part};
  const int n = static_cast<int>(rings[0].size());
  for (const auto& ring : rings) s.points.insert(s.points.end(), ring.begin(), ring.end());
  std::vector<int> first, last;
  for (int i = 0; i < n; ++i) {
    const int j = (i + 1) % n;
    s.triangles.push_back({i, j, n + j}), s.triangles.push_back({i, n + j, n + i});
    first.push_back(n - 1 - i), last.push_back(n + i);
  }
  for (const auto& ring : {first, last})
    for (const auto& t : triangulate(s.points, ring)) s.triangles.push_back(t);
  s.part_of.assign(s.size(), 0);
  turn_outward(s);
  return s;
}

Surface mirrored(const Surface& surface) {
  Surface s = surface;
  for (Vec3& p : s.points) p.y = -p.y;
  for (auto& t : s.triangles) std::swap(t[1], t[2]);
  return s;
}

Surface sphere(const std::string& part, const Vec3& centre, double radius, int segments) {
  std::vector<std::array<double, 2>> profile;
  const int bands = segments / 2;
  for (int i = 0; i <= bands; ++i) {
    const double a = pi * i / bands;
    profile.push_back({-radius * std::cos(a), radius * std::sin(a)});
  }
  profile.front()[1] = profile.back()[1] = 0;
  return revolve(part, profile, centre, {0, 0, 1}, segments);
}

}  // namespace dunefield
