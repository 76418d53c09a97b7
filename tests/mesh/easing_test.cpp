// Points around bad faces are moved until these are good, and no others.
#include <gtest/gtest.h>

#include <algorithm>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/layers/easing.hpp>
#include <dunefield/mesh/repair/mender.hpp>

namespace dunefield {
namespace {

double worst(const VolumeMesh& m) {
  double bad = 0;
  for (int f = 0; f < m.faces(); ++f) bad = std::max(bad, face_badness(m, f));
  return bad;
}

/// 4 x 4 x 4 cells whose middle point lies far off.
VolumeMesh with_a_bad_point(const Vec3& off) {
  VolumeMesh m = structured_mesh(4, 4, 4, [&](const Vec3& a) {
    return norm(a - Vec3{0.5, 0.5, 0.5}) < 1e-9 ? a + off : a;
  });
  m.derive();
  return m;
}

TEST(SmoothBadFaces, MovesAPointInTheAirUntilTheFacesAroundItAreGood) {
  VolumeMesh m = with_a_bad_point({0.22, 0.2, 0.21});
  const VolumeMesh before = m;
  ASSERT_GT(worst(m), 1);
  EXPECT_GT(smooth_bad_faces(m), 0);
  EXPECT_LE(worst(m), 0.8);
  for (std::size_t p = 0; p < m.points.size(); ++p) {
    const Vec3& x = before.points[p];
    const bool on_side = std::min({x.x, x.y, x.z}) == 0 || std::max({x.x, x.y, x.z}) == 1;
    EXPECT_TRUE(!on_side || m.points[p] == x) << "walls stay";
  }
  // What was kept up along the way is what a fresh derivation gives.
  VolumeMesh fresh = m;
  fresh.derive();
  for (int c = 0; c < m.cells; ++c)
    EXPECT_NEAR(fresh.cell_volume[at(c)], m.cell_volume[at(c)], 1e-12);
}

TEST(SmoothBadFaces, LeavesAGoodMeshAsItIs) {
  VolumeMesh m = with_a_bad_point({0.02, 0, 0});
  const VolumeMesh before = m;
  EXPECT_EQ(smooth_bad_faces(m), 0);
  EXPECT_EQ(m.points, before.points);
}

TEST(SmoothBadFaces, PointsOnTheRoadStayOnIt) {
  VolumeMesh m = structured_mesh(4, 4, 2, [&](const Vec3& a) {
    return Vec3{a.x, a.y, 0.1 * a.z} +
           (norm(a - Vec3{0.5, 0.5, 0}) < 1e-9 ? Vec3{0.22, 0.2, 0} : Vec3{});
  });
  for (Boundary& p : m.boundaries)
    p.kind = p.name == "z-" ? BoundaryKind::road : BoundaryKind::part;
  m.derive();
  const double before = worst(m);
  ASSERT_GT(before, 0.8);
  EXPECT_GT(smooth_bad_faces(m), 0);
  EXPECT_LT(worst(m), before);
  for (int f = m.interior_faces(); f < m.faces(); ++f) {
    const double z = m.face_centre[at(f)].z;
    EXPECT_TRUE(z == 0 || z > 0.01) << "a face of the road left it";
  }
}

TEST(EaseBadFaces, DrawsPointsBackTowardsSafePlacesAsFarAsNeeded) {
  VolumeMesh m = with_a_bad_point({0.22, 0.2, 0.21});
  std::vector<Vec3> safe = m.points;
  for (Vec3& p : safe)
    if (norm(p - Vec3{0.72, 0.7, 0.71}) < 1e-9) p = {0.5, 0.5, 0.5};
  EXPECT_EQ(ease_bad_faces(m, safe), 1);
  EXPECT_LE(worst(m), 1);
}

}  // namespace
}  // namespace dunefield
