// Faces of a curved wall lie on both sides of the surface, those of a plane on it.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/dual/chords.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {
namespace {

constexpr double radius = 0.5;
const Vec3 middle{0.01, 0.02, 1.2};
const Box tunnel{{-2, -2, 0}, {2, 2, 2.4}};

MeshResult meshed(const Surface& s) {
  MeshOptions o;
  o.surface_size = 0.1, o.largest_size = 0.4;
  return build_mesh(s, tunnel, o);
}

double displaced(const MeshResult& m) {
  const Vec3 size = m.tunnel.size();
  return size.x * size.y * size.z - air_volume(m.mesh);
}

/// Calls `act` with each face of the vehicle.
void on_walls(const VolumeMesh& m, const auto& act) {
  for (const Boundary& p : m.boundaries)
    if (p.kind == BoundaryKind::part)
      for (int f = p.first; f < p.first + p.count; ++f) act(static_cast<std::size_t>(f));
}

TEST(Chords, ACoarseBallKeepsItsVolume) {
  const Surface ball = sphere("ball", middle, radius, 160);
  const MeshResult m = meshed(ball);
  // With the points on the ball 31 faces a turn leave 2 % of it out.
  EXPECT_NEAR(displaced(m) / (4.0 / 3 * std::numbers::pi * std::pow(radius, 3)), 1, 0.002);
  double inmost = 1, outmost = 0;
  on_walls(m.mesh, [&](std::size_t f) {
    inmost = std::min(inmost, norm(m.mesh.face_centre[f] - middle));
    for (int k = m.mesh.face_start[f]; k < m.mesh.face_start[f + 1]; ++k)
      outmost = std::max(outmost, norm(m.mesh.points[at(m.mesh.face_points[at(k)])] - middle));
  });
  EXPECT_GT(outmost, radius + 0.001);
  EXPECT_LT(inmost, radius);
  EXPECT_LT(std::max(outmost - radius, radius - inmost), 0.006)
      << "an arc of a face's width stands 2.5 mm over its chord, of its diagonal 5 mm";
}

TEST(Chords, PlanesAndTheirEdgesStay) {
  const Box box{{-0.51, -0.42, 0.83}, {0.47, 0.38, 1.51}};
  EXPECT_NEAR(displaced(meshed(rounded_box("block", box, 0))), 0.98 * 0.8 * 0.68, 1e-6);
}

TEST(Chords, TheRimOfADrumStays) {
  const MeshResult m =
      meshed(cylinder("drum", middle - Vec3{0, 0, 0.4}, middle + Vec3{0, 0, 0.4}, radius, 360));
  double highest = 0;
  on_walls(m.mesh, [&](std::size_t f) {
    for (int k = m.mesh.face_start[f]; k < m.mesh.face_start[f + 1]; ++k)
      highest = std::max(highest, m.mesh.points[at(m.mesh.face_points[at(k)])].z);
  });
  EXPECT_NEAR(highest, middle.z + 0.4, 1e-6);
}

}  // namespace
}  // namespace dunefield
